import { useCallback, useEffect, useMemo, useRef } from 'react';
import { MATCHED_WORDS, nameBoth, tellFacts, tellTimes } from '#core/compare';
import { capitalised, formatMs } from '#core/wording';
import { goTo } from '../state/address';
import { bodyAddress, correctMatch, fetchComparison } from '../state/api';
import { useReturnOfFocus } from '../state/focus';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useActions } from '../ui/use-actions';
import { useFetched } from '../ui/use-fetched';
import { Differences } from './Differences';
import type { LoadName } from './load-name';
import { MatchField } from './MatchField';
import { Pictures } from './Pictures';
import type { ShownPair } from './pairs';
import type { ShownSides } from './use-compared';

interface PairSheetProps {
  readonly shown: ShownSides;
  readonly pair: ShownPair;
  /** All pairs, for what it can be matched with. */
  readonly pairs: readonly ShownPair[];
  /** Something was corrected: the matching is another one. */
  readonly onCorrected: () => void;
}

const close = (): void => goTo({ isOpen: false });
const CLOSE_ACTIONS = [{ id: 'close', label: 'Close the pair', keys: ['Escape'], run: close }];

/**
 * Both exchanges of a pair beside each other, part by part; of one that is on one side alone, what it can be matched with.
 * Long because it is the markup of one sheet.
 */
export default function PairSheet({ shown, pair, pairs, onCorrected }: PairSheetProps) {
  const scroller = useRef<HTMLDivElement>(null);
  useReturnOfFocus();
  useActions('exchange', CLOSE_ACTIONS);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another pair starts at its top again.
  useEffect(() => {
    scroller.current?.focus({ preventScroll: true });
    scroller.current?.scrollTo({ top: 0 });
  }, [pair.key]);
  const { a, b } = pair;
  const name = nameBoth(a, b);
  const captures = useMemo(
    () => ({ a: shown.a.drawn.load.captureId, b: shown.b.drawn.load.captureId }),
    [shown.a.drawn, shown.b.drawn],
  );
  const correct = async (own: number, other: number, isSame: boolean | null): Promise<void> => {
    const answer = await correctMatch(captures, { a: own, b: other, isSame });
    if (!answer.ok) {
      tell(answer.problem.sentence, { detail: answer.problem.advice });
      return;
    }
    const undo = isSame === null ? {} : { action: { label: 'Undo', run: () => void correct(own, other, null) } };
    tell(
      isSame === null ? 'Matched by itself again.' : isSame ? 'Matched by hand.' : 'No longer taken for the same.',
      undo,
    );
    onCorrected();
  };
  return (
    <aside
      aria-label={`Pair ${name}`}
      className="absolute inset-y-0 right-0 z-20 flex w-[680px] max-w-full animate-slide-in border-route border-l-3 bg-sheet shadow-dossier"
    >
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <div ref={scroller} tabIndex={0} className="min-w-0 flex-1 overflow-y-auto p-4 outline-none">
        <div className="flex justify-between gap-3">
          <p className="text-[12px] text-soft">
            {pair.pair.by === undefined ? '' : `Matched: ${MATCHED_WORDS[pair.pair.by]}`}
          </p>
          <Button onClick={close} hint="Esc" label="Close the pair">
            Close
          </Button>
        </div>
        <h2 className="mt-1 break-words font-bold text-xl leading-6">{name}</h2>
        <p className="mt-2">{wordsOf(pair)}</p>
        <p className="mt-2 flex flex-wrap gap-x-5 gap-y-1 text-[13px]">
          <DossierLink
            load={shown.a.drawn.load}
            page={shown.a.page?.id}
            index={a?.index}
            words={`A: ${shown.a.drawn.name}`}
          />
          <DossierLink
            load={shown.b.drawn.load}
            page={shown.b.page?.id}
            index={b?.index}
            words={`B: ${shown.b.drawn.name}`}
          />
        </p>
        <div className="mt-3 flex flex-wrap items-center gap-2 border-line border-y py-2 text-[13px]">
          {a !== undefined && b !== undefined ? (
            <Button
              action={{ id: 'part-pair', label: 'Take the current pair for two different exchanges', keys: ['p'] }}
              onClick={() => void correct(a.index, b.index, pair.pair.by === 'hand' ? null : false)}
            >
              {pair.pair.by === 'hand' ? 'Match by itself again' : 'Part these two'}
            </Button>
          ) : (
            <MatchField pair={pair} pairs={pairs} onMatch={(own, other) => void correct(own, other, true)} />
          )}
        </div>
        {a !== undefined && b !== undefined ? <BothExchanges captures={captures} a={a.index} b={b.index} /> : null}
      </div>
    </aside>
  );
}

function wordsOf(pair: ShownPair): string {
  const { a, b, did } = pair;
  if (b === undefined) return 'Only A has this exchange.';
  if (a === undefined) return 'Only B has this exchange.';
  const made =
    did === undefined
      ? ''
      : `It made the load ${formatMs(Math.abs(did.ms))} ${did.ms < 0 ? 'quicker' : 'slower'}${did.others > 0 ? ` together with ${did.others} more of its endpoint` : ''}.`;
  const differing = [tellTimes(a, b), tellFacts(pair.pair, a, b)].filter((text) => text !== '').join('; ');
  const said = differing === '' ? 'About the same in both.' : `${capitalised(differing)}.`;
  return [made, said].filter((text) => text !== '').join(' ');
}

interface DossierLinkProps {
  readonly load: LoadName;
  readonly page: string | undefined;
  readonly index: number | undefined;
  readonly words: string;
}

function DossierLink({ load, page, index, words }: DossierLinkProps) {
  if (index === undefined) return <span className="text-soft">{words}: not there</span>;
  const query = new URLSearchParams({ ...(page === undefined ? {} : { page }), exchange: String(index), dossier: '' });
  return (
    <a href={`/c/${load.captureId}/waterfall?${query}`} className="underline hover:text-route">
      {words}, #{index}
    </a>
  );
}

interface BothExchangesProps {
  readonly captures: { readonly a: string; readonly b: string };
  readonly a: number;
  readonly b: number;
}

function BothExchanges({ captures, a, b }: BothExchangesProps) {
  const fetchIt = useCallback(
    () => fetchComparison({ capture: captures.a, place: a }, { capture: captures.b, place: b }),
    [captures, a, b],
  );
  const [fetched, again] = useFetched(fetchIt);
  if (fetched.state === 'loading') return <Loading what="both exchanges" />;
  if (fetched.state === 'failed')
    return (
      <Problem problem={fetched.problem}>
        <Button onClick={again}>Try again</Button>
      </Problem>
    );
  return (
    <div className="mt-3">
      <Pictures answer={fetched.value} here={bodyAddress(captures.a, a)} there={bodyAddress(captures.b, b)} />
      <Differences comparison={fetched.value.comparison} here={`A #${a}`} there={`B #${b}`} />
    </div>
  );
}
