import { useCallback } from 'react';
import type { KeptDraft } from '#core/sheet';
import type { HeldDifference, Measure } from '#core/wire';
import { formatPlural } from '#core/wording';
import { bodyAddress } from '../state/api';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { fetchHeld } from './draft-api';

interface HeldAgainstProps {
  readonly captureId: string;
  readonly kept: KeptDraft;
  readonly number: number;
  readonly against: Measure;
}

/** A trial's response held against the measure, place by place. */
export function HeldAgainst({ captureId, kept, number, against }: HeldAgainstProps) {
  const { id } = kept;
  // The draft may change meanwhile; what was sent does not.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above.
  const fetchIt = useCallback(() => fetchHeld(captureId, kept, number, against), [captureId, id, number, against]);
  const [fetched, again] = useFetched(fetchIt);
  if (fetched.state === 'loading') return <Loading what="the comparison" />;
  if (fetched.state === 'failed') {
    return (
      <Problem problem={fetched.problem}>
        <Button onClick={again}>Try again</Button>
      </Problem>
    );
  }
  const { sentence, verdict, differences, more } = fetched.value;
  const what = nameMeasure(against);
  const there = bodyOf(captureId, kept, against);
  return (
    <section aria-label={`Held against ${what}`} className="mt-4">
      <h2 className="font-bold">Held against {what}</h2>
      {verdict === 'none' || verdict === 'unmeasured' || against.type !== 'captured' ? <p>{sentence}</p> : null}
      {verdict === 'same' ? <p className="text-soft">Nothing differs.</p> : null}
      <ul tabIndex={0} className="max-h-56 overflow-y-auto">
        {differences.map((difference) => (
          <Difference key={difference.place} difference={difference} />
        ))}
      </ul>
      {more > 0 ? <p className="text-soft">and {formatPlural(more, 'place')} more</p> : null}
      {there !== undefined && differences.some(({ place, was, is }) => place === 'body' && isImageSize(was, is)) ? (
        <Pictures was={there} is={bodyAddress(id, number)} />
      ) : null}
    </section>
  );
}

function nameMeasure(against: Measure): string {
  switch (against.type) {
    case 'captured':
      return 'the captured response';
    case 'trial':
      return `the response of trial ${against.number}`;
    case 'exchange':
      return `the response of #${against.number}`;
    case 'pasted':
      return 'the pasted response';
    default:
      return against satisfies never;
  }
}

/** The address of the body that is the measure; none of what was pasted. */
function bodyOf(captureId: string, { id, exchange }: KeptDraft, against: Measure): string | undefined {
  if (against.type === 'trial') return bodyAddress(id, against.number);
  const place = against.type === 'exchange' ? against.number : exchange;
  return against.type === 'pasted' || place === undefined ? undefined : bodyAddress(captureId, place);
}

/** Bodies that are bytes in both are told by their sizes. */
const isImageSize = (was: string | undefined, is: string | undefined): boolean =>
  /bytes$/.test(was ?? '') && /bytes$/.test(is ?? '');

function Difference({ difference }: { readonly difference: HeldDifference }) {
  const { place, was, is, changes, follows } = difference;
  return (
    <li className={`flex flex-wrap items-baseline gap-x-3 py-0.5 ${follows === undefined ? '' : 'current'}`}>
      <span className="font-mono text-[12px]">{place}</span>
      <span className="min-w-0 break-all font-mono text-[12px]">
        {was === undefined ? null : <del className="text-soft">{short(was)}</del>}{' '}
        {is === undefined ? <span className="text-soft">gone</span> : <ins className="no-underline">{short(is)}</ins>}
      </span>
      <span className="text-[12px] text-soft">
        {follows !== undefined
          ? `follows from your change of ${follows}`
          : changes === 'known'
            ? 'changes by itself: it differed between unchanged trials, too'
            : changes === 'guessed'
              ? 'may change by itself'
              : was === undefined
                ? 'new'
                : ''}
      </span>
    </li>
  );
}

const LONGEST = 120;
const short = (text: string): string => (text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text);

/** Two bodies side by side, where browsers draw them. */
function Pictures({ was, is }: { readonly was: string; readonly is: string }) {
  return (
    <div className="mt-2 grid grid-cols-2 gap-2">
      {[
        [was, 'as captured'],
        [is, 'as it came now'],
      ].map(([address = '', words = '']) => (
        <figure key={words}>
          <img
            src={address}
            alt={words}
            className="max-h-40 border border-line object-contain"
            onError={({ currentTarget }) => {
              currentTarget.hidden = true;
            }}
          />
          <figcaption className="text-[12px] text-soft">{words}</figcaption>
        </figure>
      ))}
    </div>
  );
}
