import {
  classifyOutcome,
  findStep,
  middleOf,
  OUTCOME_CLASSES,
  type OutcomeClass,
  type Spread,
  spreadOf,
  type Tally,
  tally,
} from '#core/analysis';
import { strokesAt } from '#core/chart';
import { groupBy } from '#core/collections';
import { queryOf } from '#core/http';
import { exactMs, formatPlural } from '#core/wording';
import type { ExportTable } from '../export/exported';
import type { Placed } from '../waterfall/arrange';

/** The calls to one endpoint, summed. */
export interface Endpoint {
  readonly name: string;
  /** In the order of their starts. */
  readonly calls: readonly Placed[];
  readonly sums: Tally;
  readonly spread: Spread;
  /** The parameter of the query that counts on from call to call: its pages. */
  readonly counter: string | undefined;
}

/** The orders of the list, each by what it puts first. */
export const ENDPOINT_ORDERS = {
  calls: { label: 'calls', rank: ({ calls }: Endpoint): number => calls.length },
  failed: { label: 'failures', rank: ({ sums }: Endpoint): number => sums.failed },
  median: { label: 'median time', rank: ({ spread }: Endpoint): number => middleOf(spread) ?? -1 },
  slowest: { label: 'slowest call', rank: ({ calls }: Endpoint): number => slowestOf(calls) },
  wire: { label: 'bytes on the wire', rank: ({ sums }: Endpoint): number => sums.wireBytes ?? -1 },
} as const;
export type EndpointOrder = keyof typeof ENDPOINT_ORDERS;
export const ENDPOINT_ORDER_IDS = Object.keys(ENDPOINT_ORDERS) as EndpointOrder[];

export const findEndpointOrder = (asked: string | undefined): EndpointOrder =>
  ENDPOINT_ORDER_IDS.find((id) => id === asked) ?? 'calls';

export const slowestOf = (calls: readonly Placed[]): number =>
  calls.reduce((most, { row }) => Math.max(most, row.timeMs ?? 0), 0);

/** Exchanges by endpoint, the greatest of the order first; equal ones by their names. */
export function groupEndpoints(placed: readonly Placed[], order: EndpointOrder): Endpoint[] {
  const groups = groupBy(placed, ({ row }) => row.endpoint);
  const { rank } = ENDPOINT_ORDERS[order];
  return [...groups]
    .map(([name, calls]): Endpoint => {
      const rows = calls.map(({ row }) => row);
      const spread = spreadOf(rows.map(({ timeMs }) => timeMs));
      return { name, calls, sums: tally(rows), spread, counter: findCounter(rows.map(({ url }) => url)) };
    })
    .sort((a, b) => asks(a) - asks(b) || rank(b) - rank(a) || (a.name < b.name ? -1 : 1));
}

/** Preflights stand behind what they ask for. */
const asks = ({ calls }: Endpoint): number => Number(calls.every(({ row }) => row.kind === 'preflight'));

/** The first parameter whose values are whole numbers that go on by the same step, in the order of the calls. */
export function findCounter(urls: readonly string[]): string | undefined {
  if (urls.length < 2) return undefined;
  const queries = urls.map((url) => new URLSearchParams(queryOf(url)));
  return [...(queries[0]?.keys() ?? [])].find(
    (name) => findStep(queries.map((query) => query.get(name) ?? undefined)) !== undefined,
  );
}

/** The endpoints as a table to be exported: counts, bytes exact, times in ms; unknown is undefined. */
export function endpointTable(endpoints: readonly Endpoint[]): ExportTable {
  return {
    what: formatPlural(endpoints.length, 'endpoint'),
    header: ['endpoint', 'calls', 'failed', 'wireBytes', 'bodyBytes', 'medianMs', 'p95Ms', 'slowestMs', 'pagedBy'],
    rows: () =>
      endpoints.map(({ name, calls, sums, spread, counter }) => [
        name,
        calls.length,
        sums.failed,
        sums.wireBytes,
        sums.bodyBytes,
        exactMs(middleOf(spread)),
        exactMs(spread.type === 'percentiles' ? spread.p95 : undefined),
        exactMs(calls.some(({ row }) => row.timeMs !== undefined) ? slowestOf(calls) : undefined),
        counter,
      ]),
  };
}

/**
 * The durations of calls as strokes, one path for each outcome. As many strokes as can be told apart, however many calls there
 * are. Where calls of several outcomes took as long, the later outcome has the lower half of the stroke: two failures among
 * thousands of calls neither cover these nor are covered.
 * @param pxOf where a duration lies
 */
export function strokesOf(
  calls: readonly Placed[],
  pxOf: (timeMs: number) => number,
): { readonly outcome: OutcomeClass; readonly d: string }[] {
  const byOutcome = groupBy(calls, ({ row }) => classifyOutcome(row));
  const drawn = new Set<number>();
  return OUTCOME_CLASSES.flatMap((outcome) => {
    const timesMs = (byOutcome.get(outcome) ?? []).map(({ row }) => row.timeMs);
    const places = [...strokesAt(timesMs, pxOf)];
    const strokes = places.map((px) => `M${px} ${drawn.has(px) ? '11v4' : '6v9'}`);
    for (const px of places) drawn.add(px);
    return strokes.length === 0 ? [] : { outcome, d: strokes.join('') };
  });
}
