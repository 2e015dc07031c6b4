import { useCallback, useEffect, useMemo, useState } from 'react';
import type { ExchangeRow, PageOverview } from '#core/analysis';
import type { Corrections, GroupComparison, SidesComparison } from '#core/compare';
import { type ProblemAnswer, unpackRows } from '#core/wire';
import type { Compared, DrawnSide, FromCompareWorker, LoadHead, ToCompareWorker } from '../../workers/compare.worker';
import { readLoadName } from './load-name';

/** A side of a comparison, with the load of it that is drawn. */
export interface ShownSide {
  readonly heads: readonly LoadHead[];
  readonly drawn: LoadHead;
  readonly page: PageOverview | undefined;
  /** The exchanges of the drawn load, and by their numbers. */
  readonly rows: readonly ExchangeRow[];
  readonly rowOf: (index: number | undefined) => ExchangeRow | undefined;
  /** All of the drawn load's capture, in the order of the file. */
  readonly allRows: readonly ExchangeRow[];
}

export interface ShownSides {
  readonly type: 'sides';
  readonly a: ShownSide;
  readonly b: ShownSide;
  readonly compared: SidesComparison;
  readonly remarks: readonly string[];
  readonly corrections: Corrections;
  readonly isSame: boolean;
}

export type ShownComparison =
  | ShownSides
  | { readonly type: 'group'; readonly heads: readonly LoadHead[]; readonly group: GroupComparison | undefined };

export type ComparedState =
  | { readonly state: 'loading'; readonly loads: number; readonly of: number }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer }
  | { readonly state: 'there'; readonly shown: ShownComparison };

/** Has loads compared in a worker; and again on demand. What is there stays until what is newer has come. */
export function useCompared(
  a: readonly string[],
  b: readonly string[],
  map: readonly string[],
): readonly [ComparedState, () => void] {
  const [state, setState] = useState<ComparedState>({ state: 'loading', loads: 0, of: a.length + b.length });
  const [round, setRound] = useState(0);
  const again = useCallback(() => setRound((count) => count + 1), []);
  const key = JSON.stringify([a, b, map]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new round compares again.
  useEffect(() => {
    const [ofA, ofB, hosts] = JSON.parse(key) as [string[], string[], string[]];
    const worker = new Worker(new URL('../../workers/compare.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<FromCompareWorker>) => {
      if (data.type === 'compared') setState({ state: 'there', shown: shownOf(data.compared) });
      else if (data.type === 'problem') setState({ state: 'failed', problem: data.problem });
      else
        setState((before) =>
          before.state === 'there' ? before : { state: 'loading', loads: data.loads, of: data.of },
        );
    };
    worker.onerror = () =>
      setState({
        state: 'failed',
        problem: { code: 'internal', sentence: 'The comparison could not be made.', advice: 'Load this page again.' },
      });
    const order: ToCompareWorker = { a: ofA.map(readLoadName), b: ofB.map(readLoadName), map: hosts };
    worker.postMessage(order);
    return () => worker.terminate();
  }, [key, round]);
  // What belongs to another choice is not shown for this one.
  const [lastKey, setLastKey] = useState(key);
  if (lastKey !== key) {
    setLastKey(key);
    setState({ state: 'loading', loads: 0, of: a.length + b.length });
  }
  return useMemo(() => [state, again], [state, again]);
}

function shownOf(compared: Compared): ShownComparison {
  if (compared.type === 'group') return compared;
  const { a, b, compared: sides, ...rest } = compared;
  return { ...rest, a: sideOf(a, sides.a.drawn), b: sideOf(b, sides.b.drawn), compared: sides };
}

function sideOf({ heads, page, rows: packed, allRows }: DrawnSide, drawn: number): ShownSide {
  const rows = unpackRows(packed);
  const byIndex = new Map<number, ExchangeRow>(rows.map((row) => [row.index, row]));
  return {
    heads,
    drawn: heads[drawn] ?? (heads[0] as LoadHead),
    page,
    rows,
    rowOf: (index) => (index === undefined ? undefined : byIndex.get(index)),
    allRows: allRows === undefined ? rows : unpackRows(allRows),
  };
}
