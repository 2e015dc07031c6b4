import { useStore } from '@nanostores/react';
import { Suspense, useMemo } from 'react';
import { noiseOf, PAIR_CHANGES, tellComparison } from '#core/compare';
import { formatCount, formatPlural } from '#core/wording';
import { FilterBar } from '../filter/FilterBar';
import { type FilterState, useFilter } from '../filter/use-filter';
import { $place, goTo } from '../state/address';
import { Boundary } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { CopyButton } from '../ui/CopyButton';
import { later } from '../ui/later';
import { tableAsText } from '../ui/table-text';
import { useActions } from '../ui/use-actions';
import { PAIR_CHANGE_WORDS, pairTable } from './compare-tables';
import { Details } from './Details';
import { copiedText, exportActions } from './export-actions';
import { LedgerSteps } from './LedgerSteps';
import { PairList } from './PairList';
import {
  arrangePairs,
  comparedColumns,
  filterPairs,
  findPairOrder,
  groupPairs,
  listRows,
  PAIR_ORDERS,
  type PairOrder,
  type ShownPair,
  showPairs,
} from './pairs';
import type { ShownSides } from './use-compared';

const PairSheet = later(() => import('./PairSheet'));

interface SidesViewProps {
  readonly shown: ShownSides;
  readonly onCorrected: () => void;
  readonly onChoose: () => void;
  /** Draws the top bar, which has the filter. */
  readonly children: (bar: React.ReactNode, view: React.ReactNode) => React.ReactNode;
}

/** Two sides beside each other: the sentence, the difference, every pair. */
export function SidesView({ shown, onCorrected, onChoose, children }: SidesViewProps) {
  const place = useStore($place);
  const { a, b } = shown;
  const pairs = useMemo(() => showPairs(shown), [shown]);
  const order = findPairOrder(place.order);
  // Arranged first: what a filter lets through of that is in order, with each letter that is typed.
  const inOrder = useMemo(() => arrangePairs(pairs, order), [pairs, order]);
  const { filter, passing: arranged } = usePairFilter(shown, inOrder);
  const grouped = useMemo(() => groupPairs(arranged, order, shown.compared.drawn), [arranged, order, shown]);
  const rows = useMemo(() => listRows(grouped, place.turned), [grouped, place.turned]);
  const open = place.isOpen ? pairs.find(({ key }) => key === place.pair) : undefined;
  useActions(
    'view',
    useMemo(() => [...SWAP, ...exportActions(shown, arranged)], [shown, arranged]),
  );
  const title = `${nameSide(a)} against ${nameSide(b)}`;
  const bar = (
    <>
      <h1 className="max-w-96 truncate font-bold text-base" title={title}>
        {title}
      </h1>
      <FilterBar captureId={a.drawn.load.captureId} state={filter} />
      <Button onClick={onChoose}>Choose others</Button>
      <Button onClick={swapSides} hint="x">
        Swap
      </Button>
    </>
  );
  const view = (
    <>
      <Sentences shown={shown} />
      <LedgerSteps shown={shown} split={place.split} />
      <Details shown={shown} split={place.split} />
      <Counts shown={shown} pairs={arranged} order={order} />
      {arranged.length === 0 ? (
        <p className="p-10 text-center text-soft">
          {pairs.length === 0 ? 'Neither side has exchanges.' : 'No pair passes the filter. Clear it to see all.'}
        </p>
      ) : (
        <PairList shown={shown} rows={rows} order={order} window={place.window} current={place.pair} />
      )}
      {open === undefined ? null : (
        <Boundary of={open.key}>
          <Suspense>
            <PairSheet key={open.key} shown={shown} pair={open} pairs={pairs} onCorrected={onCorrected} />
          </Suspense>
        </Boundary>
      )}
    </>
  );
  return children(bar, view);
}

/** A side by its load; several by their number. */
const nameSide = ({ heads, drawn }: ShownSides['a']): string =>
  heads.length === 1 ? drawn.name : formatPlural(heads.length, 'load');

function swapSides(): void {
  const { sideA, sideB, pair } = $place.get();
  const [own, other] = pair?.split('-') ?? [];
  goTo({ sideA: sideB, sideB: sideA, pair: own === undefined ? undefined : `${other}-${own}` });
}

const SWAP = [{ id: 'swap', label: 'Swap the sides', keys: ['x'], run: swapSides }];

/** The filter of the address over both sides, in the order of the pairs: one passes where one of its exchanges does. */
function usePairFilter(
  { a, b }: ShownSides,
  pairs: readonly ShownPair[],
): { readonly filter: FilterState; readonly passing: readonly ShownPair[] } {
  const besideA = useMemo(() => comparedColumns(a.allRows, pairs, 'a'), [a.allRows, pairs]);
  const besideB = useMemo(() => comparedColumns(b.allRows, pairs, 'b'), [b.allRows, pairs]);
  const ofA = useFilter(a.drawn.load.captureId, a.allRows, NO_TITLES, besideA);
  const ofB = useFilter(b.drawn.load.captureId, b.allRows, NO_TITLES, besideB);
  const passing = useMemo(
    () => filterPairs(pairs, { rows: a.allRows, mask: ofA.mask }, { rows: b.allRows, mask: ofB.mask }),
    [pairs, a.allRows, b.allRows, ofA.mask, ofB.mask],
  );
  const isBusy = ofA.isBusy || ofB.isBusy;
  const mask = useMemo(() => Uint8Array.from([Number(passing.length > 0)]), [passing.length]);
  return { filter: { ...ofA, mask, isBusy, problem: ofA.problem ?? ofB.problem }, passing };
}

const NO_TITLES: ReadonlyMap<string, string> = new Map();

function Sentences({ shown }: { readonly shown: ShownSides }) {
  const { compared, remarks, isSame } = shown;
  const [first, ...more] = useMemo(() => tellComparison(compared), [compared]);
  const noise = isSame ? '' : noiseOf(compared);
  return (
    <section aria-label="What differs" className="px-4 pt-3">
      <p className="float-right pl-4">
        <CopyButton label="Copy the comparison as text" text={() => copiedText(shown)}>
          copy as text
        </CopyButton>
      </p>
      <h2 className="font-bold text-lg leading-6">{first}</h2>
      <p>{more.join(' ')}</p>
      {remarks.map((remark) => (
        <p key={remark} className="border-redirect border-l-2 pl-2 text-[13px]">
          {remark}
        </p>
      ))}
      {noise === '' ? null : <p className="text-[13px] text-soft">{noise}.</p>}
    </section>
  );
}

interface CountsProps {
  readonly shown: ShownSides;
  /** Those that pass the filter. */
  readonly pairs: readonly ShownPair[];
  readonly order: PairOrder;
}

/** How many pairs have each change; each leads to just these. */
function Counts({ shown, pairs, order }: CountsProps) {
  const { a, b, compared } = shown;
  const { counts } = compared.drawn;
  const isPart = pairs.length < compared.drawn.pairs.length;
  return (
    <div className="flex min-h-8 shrink-0 flex-wrap items-center gap-x-5 border-line border-y bg-sheet px-4 text-[13px]">
      <b className="font-semibold">
        {formatCount(a.rows.length)} and {formatCount(b.rows.length)} exchanges
      </b>
      {PAIR_CHANGES.map((change) =>
        counts[change] === 0 ? null : (
          <button
            key={change}
            type="button"
            className="hover:underline"
            onClick={() => goTo({ filter: `change = ${change}`, isOpen: false })}
          >
            {formatCount(counts[change])} {PAIR_CHANGE_WORDS[change]}
          </button>
        ),
      )}
      {isPart ? <span className="text-soft">{formatCount(pairs.length)} shown</span> : null}
      <span className="flex-1" />
      <CopyButton label="Copy the pairs shown as text" text={() => tableAsText(pairTable(pairs))} />
      <Choice
        action={{ id: 'order', label: 'Choose how pairs are arranged', keys: ['o'] }}
        label="Arrange pairs by"
        before="arranged by"
        value={order}
        options={Object.entries(PAIR_ORDERS) as [PairOrder, string][]}
        onChoose={(chosen) => goTo({ order: chosen === 'did' ? undefined : chosen })}
      />
    </div>
  );
}
