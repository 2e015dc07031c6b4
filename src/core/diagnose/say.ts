import { type ExchangeRow, nameExchange } from '../analysis';
import type { Kind } from '../model';
import { formatPlural } from '../wording';
import type { Cost } from './finding';

/** An exchange in a sentence: its short name. */
export const called = (row: ExchangeRow): string => nameExchange(row).slice(0, 80);

/** One exchange by its name, several as their number: "atlas.js", "31 images". */
export function calledAll(rows: readonly ExchangeRow[]): string {
  const [first] = rows;
  if (rows.length === 1 && first !== undefined) return called(first);
  const kinds = new Set(rows.map(({ kind }) => kind));
  const [kind] = kinds;
  return kinds.size === 1 && kind !== undefined
    ? formatPlural(rows.length, NOUNS[kind])
    : formatPlural(rows.length, 'exchange');
}

/** Several exchanges of one endpoint by one of them: "4 calls like beds", "34 scripts like tap.js". */
export const countLike = (rows: readonly ExchangeRow[], like: ExchangeRow): string =>
  `${formatPlural(rows.length, NOUNS[like.kind])} like ${called(like)}`;

const NOUNS: Record<Kind, string> = {
  document: 'document',
  style: 'style',
  script: 'script',
  font: 'font',
  image: 'image',
  media: 'media file',
  data: 'call',
  socket: 'socket',
  stream: 'stream',
  preflight: 'preflight',
  report: 'report',
  other: 'exchange',
};

export const sum = <T>(items: readonly T[], of: (item: T) => number | undefined): number =>
  items.reduce((total, item) => total + (of(item) ?? 0), 0);

/** A stretch of time, in ms on the clock of its capture. */
interface Stretch {
  readonly fromMs: number;
  readonly toMs: number;
}

/** So much of an exchange's time, from its start; undefined where that is unknown. */
export function firstOf({ startedAt }: ExchangeRow, ms: number): Stretch | undefined {
  return startedAt === undefined ? undefined : { fromMs: startedAt, toMs: startedAt + ms };
}

/** So much of an exchange's time, up to its end; undefined where its start is unknown. */
export function lastOf({ startedAt, timeMs = 0 }: ExchangeRow, ms: number): Stretch | undefined {
  return startedAt === undefined ? undefined : { fromMs: startedAt + timeMs - ms, toMs: startedAt + timeMs };
}

/**
 * What some time of each exchange costs: the part that the load waited for, and the rest, off the route. What passed
 * for several at once passed once.
 * @param stretch the time that would go; undefined where it is not known when it was
 * @param routeMs as much of it as lies on the route
 */
export function timeCost(
  rows: readonly ExchangeRow[],
  stretch: (row: ExchangeRow) => Stretch | undefined,
  routeMs: (row: ExchangeRow) => number,
): Pick<Required<Cost>, 'routeMs' | 'offRouteMs'> {
  const stretches = rows.map(stretch);
  const onRoute = sum(
    rows.map((row, place) => [row, stretches[place]] as const),
    ([row, own]) => (own === undefined ? 0 : Math.max(0, Math.min(routeMs(row), own.toMs - own.fromMs))),
  );
  return { routeMs: onRoute, offRouteMs: Math.max(0, elapsedMs(stretches.flatMap((own) => own ?? [])) - onRoute) };
}

/** What the waits for servers cost, where the load did not wait for them. */
export const waitCost = (rows: readonly ExchangeRow[]): Pick<Cost, 'offRouteMs'> => ({
  offRouteMs: timeCost(
    rows,
    (row) => lastOf(row, row.phases.waitMs ?? 0),
    () => 0,
  ).offRouteMs,
});

/** How much time passed in any of the stretches. */
function elapsedMs(stretches: readonly Stretch[]): number {
  let elapsed = 0;
  let reachedMs = Number.NEGATIVE_INFINITY;
  for (const { fromMs, toMs } of stretches.toSorted((a, b) => a.fromMs - b.fromMs)) {
    elapsed += Math.max(0, toMs - Math.max(fromMs, reachedMs));
    reachedMs = Math.max(reachedMs, toMs);
  }
  return elapsed;
}

/** The greatest value, 0 where there is none. Captures have more exchanges than a call can have arguments. */
export const most = <T>(items: readonly T[], of: (item: T) => number | undefined): number =>
  items.reduce((greatest, item) => Math.max(greatest, of(item) ?? 0), 0);

/** Numbers of exchanges. */
export const indexes = (rows: readonly ExchangeRow[]): ExchangeRow['index'][] => rows.map(({ index }) => index);
