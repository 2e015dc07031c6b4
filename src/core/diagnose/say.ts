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

/**
 * What some time of each exchange costs: the part that the load waited for, and the rest, off the route.
 * @param ms the time that would go
 * @param routeMs as much of it as lies on the route
 */
export function timeCost<T>(
  items: readonly T[],
  ms: (item: T) => number,
  routeMs: (item: T) => number,
): Pick<Required<Cost>, 'routeMs' | 'offRouteMs'> {
  const onRoute = sum(items, (item) => Math.max(0, Math.min(routeMs(item), ms(item))));
  return { routeMs: onRoute, offRouteMs: Math.max(0, sum(items, (item) => Math.max(0, ms(item))) - onRoute) };
}

/** The greatest value, 0 where there is none. Captures have more exchanges than a call can have arguments. */
export const most = <T>(items: readonly T[], of: (item: T) => number | undefined): number =>
  items.reduce((greatest, item) => Math.max(greatest, of(item) ?? 0), 0);

/** Items by a key, in the order in which keys first come. */
export function groupBy<T, K>(items: Iterable<T>, keyOf: (item: T) => K | undefined): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    if (key === undefined) continue;
    const group = groups.get(key);
    if (group === undefined) groups.set(key, [item]);
    else group.push(item);
  }
  return groups;
}

/** Numbers of exchanges. */
export const indexes = (rows: readonly ExchangeRow[]): ExchangeRow['index'][] => rows.map(({ index }) => index);
