import { type ExchangeRow, middleOf, nameHost, spreadOf } from '#core/analysis';
import type { PlottedLeg } from '#core/brief';
import { addTo } from '#core/collections';

/** A bar of a chart: what it stands for, its length, and that of its second bar. */
export interface ChartBar {
  readonly name: string;
  /** Absent where nothing of it is known. */
  readonly value: number | undefined;
  /** Absent where nothing of it is known, and in charts of one bar. */
  readonly second: number | undefined;
  readonly outcome: 'plain' | 'redirect' | 'failed';
}

const MOST_BARS = 8;

/** Wire and body bytes by a key, most wire bytes first; what is unknown is left out of the sums. */
function byteBars(rows: readonly ExchangeRow[], keyOf: (row: ExchangeRow) => string): ChartBar[] {
  const sums = new Map<string, Pick<ChartBar, 'value' | 'second'>>();
  for (const row of rows) {
    const sum = sums.get(keyOf(row));
    sums.set(keyOf(row), { value: add(sum?.value, row.wireBytes), second: add(sum?.second, row.bodyBytes) });
  }
  return [...sums]
    .filter(([, { value = 0, second = 0 }]) => value + second > 0)
    .sort(([, a], [, b]) => (b.value ?? 0) - (a.value ?? 0) || (b.second ?? 0) - (a.second ?? 0))
    .map(([name, sum]): ChartBar => ({ name, ...sum, outcome: 'plain' }))
    .slice(0, MOST_BARS);
}

/** A sum that leaves out what is unknown, and is unknown where nothing is known. */
const add = (sum: number | undefined, more: number | undefined): number | undefined =>
  more === undefined ? sum : (sum ?? 0) + more;

export const kindBars = (rows: readonly ExchangeRow[]): ChartBar[] => byteBars(rows, ({ kind }) => kind);
export const hostBars = (rows: readonly ExchangeRow[]): ChartBar[] => byteBars(rows, ({ host }) => nameHost(host));
export const sourceBars = (rows: readonly ExchangeRow[]): ChartBar[] => byteBars(rows, ({ source }) => source);

export const partyBars = (rows: readonly ExchangeRow[]): ChartBar[] =>
  byteBars(rows, ({ party }) => party ?? 'unknown');

/** How the time of gaps is called. */
export const GAP_BAR = 'gaps';

/** Time on the route by what was fetched in it, and its gaps; most first. */
export function routeBars(legs: readonly PlottedLeg[], rows: readonly ExchangeRow[]): ChartBar[] {
  const kinds = new Map<number, string>(rows.map(({ index, kind }) => [index, kind]));
  const sums = new Map<string, number>();
  for (const leg of legs) {
    const name = leg.type === 'gap' ? GAP_BAR : (kinds.get(leg.index) ?? 'other');
    sums.set(name, (sums.get(name) ?? 0) + leg.endMs - leg.startMs);
  }
  return [...sums]
    .map(([name, value]): ChartBar => ({ name, value, second: undefined, outcome: 'plain' }))
    .sort((a, b) => (b.value ?? 0) - (a.value ?? 0))
    .slice(0, MOST_BARS);
}

/** Exchanges by the class of their status. */
export function statusBars(rows: readonly ExchangeRow[]): ChartBar[] {
  const counts = new Map<string, number>();
  for (const { status } of rows) {
    const name = status === undefined ? 'none' : `${Math.floor(status / 100)}xx`;
    counts.set(name, (counts.get(name) ?? 0) + 1);
  }
  return [...counts]
    .map(([name, value]): ChartBar => ({ name, value, second: undefined, outcome: outcomeOf(name) }))
    .sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** What a class of statuses says of how it ended; a 304 spares bytes, the other 3xx lead elsewhere. */
const outcomeOf = (name: string): ChartBar['outcome'] =>
  /^[45]|^none/.test(name) ? 'failed' : name.startsWith('3') ? 'redirect' : 'plain';

/** Endpoints by the median duration of their calls; sockets and streams last as long as they like. */
export function endpointBars(rows: readonly ExchangeRow[]): ChartBar[] {
  const durations = new Map<string, [number, ...number[]]>();
  for (const { endpoint, timeMs, kind } of rows) {
    if (timeMs === undefined || kind === 'socket' || kind === 'stream') continue;
    addTo(durations, endpoint, timeMs);
  }
  return [...durations]
    .map(
      ([name, values]): ChartBar => ({
        name,
        value: middleOf(spreadOf(values)) ?? 0,
        second: undefined,
        outcome: 'plain',
      }),
    )
    .sort((a, b) => (b.value ?? 0) - (a.value ?? 0))
    .slice(0, MOST_BARS);
}
