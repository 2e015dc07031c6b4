import { useStore } from '@nanostores/react';
import { atom } from 'nanostores';
import { useCallback, useMemo, useState } from 'react';
import type { CaptureCard, ComparedHead, ExchangeFrom } from '#core/wire';
import { $place, goTo } from '../state/address';
import { bodyAddress, fetchCaptures, fetchComparison } from '../state/api';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { Differences } from './Differences';
import { readExchangeName, writeExchangeName } from './load-name';
import { Pictures } from './Pictures';

/** What was pasted for each of the two: too long, and too private, for an address. */
const $pasted = atom<{ readonly one: string | undefined; readonly other: string | undefined }>({
  one: undefined,
  other: undefined,
});

type Which = 'one' | 'other';

/** Two exchanges from anywhere beside each other: of any captures, trials of drafts, or pasted. */
export default function TwoExchanges() {
  const place = useStore($place);
  const pasted = useStore($pasted);
  const one = useFrom(place.one, pasted.one);
  const other = useFrom(place.other, pasted.other);
  return (
    // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
    <div data-home="" tabIndex={0} className="min-h-0 flex-1 overflow-auto px-4 py-3 outline-none">
      <div className="grid grid-cols-2 gap-6 max-md:grid-cols-1">
        <Chooser which="one" label="One" />
        <Chooser which="other" label="The other" />
      </div>
      {one === undefined || other === undefined ? (
        <p className="mt-8 text-center text-soft">Choose an exchange, or paste a request or response, on both sides.</p>
      ) : (
        <Compared one={one} other={other} />
      )}
    </div>
  );
}

function useFrom(named: string | undefined, pasted: string | undefined): ExchangeFrom | undefined {
  return useMemo(() => (pasted === undefined ? readExchangeName(named) : { pasted }), [named, pasted]);
}

function Compared({ one, other }: { readonly one: ExchangeFrom; readonly other: ExchangeFrom }) {
  const fetchIt = useCallback(() => fetchComparison(one, other), [one, other]);
  const [fetched, again] = useFetched(fetchIt);
  if (fetched.state === 'loading') return <Loading what="both exchanges" />;
  if (fetched.state === 'failed')
    return (
      <Problem problem={fetched.problem}>
        <Button onClick={again}>Try again</Button>
      </Problem>
    );
  const { here, there, comparison } = fetched.value;
  const addressOf = (from: ExchangeFrom): string => ('pasted' in from ? '' : bodyAddress(from.capture, from.place));
  return (
    <section aria-label="What differs" className="mt-4 border-line border-t pt-3">
      <h2 className="mb-2 font-bold text-lg">
        {nameOf(here)} compared with {nameOf(there)}
      </h2>
      <Pictures answer={fetched.value} here={addressOf(one)} there={addressOf(other)} />
      <Differences comparison={comparison} here={nameOf(here)} there={nameOf(there)} />
    </section>
  );
}

const nameOf = ({ name, captureName }: ComparedHead): string =>
  captureName === undefined ? name : `${name} of ${captureName}`;

/** Where one of the two comes from. Long because it is the markup of one form. */
function Chooser({ which, label }: { readonly which: Which; readonly label: string }) {
  const place = useStore($place);
  const pasted = useStore($pasted)[which];
  const [fetched] = useFetched(fetchCaptures);
  const [problem, setProblem] = useState<string>();
  const named = readExchangeName(place[which]);
  const cards: readonly CaptureCard[] = fetched.state === 'there' ? fetched.value : [];
  const isKnown = named === undefined || cards.some(({ id }) => id === named.capture);
  const paste = (text: string): void => {
    const isBlank = text.trim() === '';
    $pasted.set({ ...$pasted.get(), [which]: isBlank ? undefined : text });
  };
  const submit = (event: React.FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const capture = String(data.get('capture'));
    const typed = String(data.get('number')).trim().replace(/^#/, '');
    if (capture === '' || !/^\d{1,9}$/.test(typed)) {
      setProblem(capture === '' ? 'Choose a capture.' : 'Type the number of an exchange.');
      return;
    }
    setProblem(undefined);
    $pasted.set({ ...$pasted.get(), [which]: undefined });
    goTo({ [which]: writeExchangeName(capture, Number(typed)) });
  };
  return (
    <section aria-label={label}>
      <h2 className="font-semibold">{label}</h2>
      <form key={place[which]} onSubmit={submit} className="mt-1 flex flex-wrap items-center gap-2 text-[13px]">
        <select
          name="capture"
          aria-label={`${label}: capture`}
          defaultValue={named?.capture ?? ''}
          key={`${cards.length}`}
          className="h-7 w-56 border border-soft bg-paper px-1"
        >
          <option value="">capture</option>
          {isKnown || named === undefined ? null : <option value={named.capture}>trials of a draft</option>}
          {cards.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-2">
          exchange
          <input
            name="number"
            inputMode="numeric"
            autoComplete="off"
            defaultValue={named === undefined ? '' : String(named.place)}
            className="h-7 w-16 border border-soft bg-paper px-2 font-mono"
          />
        </label>
        <Button isSubmit>Take it</Button>
        {problem === undefined ? null : (
          <span role="alert" className="text-failed">
            {problem}
          </span>
        )}
      </form>
      <label className="mt-2 block text-[13px] text-soft">
        or paste a request (curl, fetch, HTTP) or a response
        <textarea
          value={pasted ?? ''}
          onChange={({ target }) => paste(target.value)}
          rows={3}
          spellCheck={false}
          className="mt-1 w-full border border-soft bg-paper px-2 py-1 font-mono text-[12px] text-ink"
        />
      </label>
    </section>
  );
}
