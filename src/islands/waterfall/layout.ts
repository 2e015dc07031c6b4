import { addTo, groupBy } from '#core/collections';
import type { Placed } from './arrange';
import { LANES, type LaneId } from './lanes';
import { type MeasureId, measureOf } from './measures';

/** One row of the chart: an exchange's strip, or the head of a lane, which a folded lane is all of. */
export type ChartRow =
  | { readonly type: 'strip'; readonly key: string; readonly placed: Placed; readonly level: 1 | 2 | 3 }
  | {
      readonly type: 'lane';
      readonly key: string;
      readonly level: 1 | 2;
      /** The value that its exchanges share; absent where that is unknown. */
      readonly value: string | undefined;
      /** What its exchanges share: a lane's subject, or an endpoint that is called more than once. */
      readonly by: LaneId | 'endpoint';
      readonly members: readonly Placed[];
      readonly isFolded: boolean;
    };

/** The orders of strips: by time, or by any measure, the greatest first. */
export type StripOrder = 'start' | 'end' | MeasureId;

export interface LayoutOptions {
  readonly order: StripOrder;
  readonly lanes: LaneId | undefined;
  readonly isGrouped: boolean;
  readonly turned: readonly string[];
}

/** The rows of the chart from top to bottom. Lanes are open and groups of repeated calls folded, unless turned. */
export function layOut(placed: readonly Placed[], options: LayoutOptions): ChartRow[] {
  const ordered = sortStrips(placed, options.order);
  const turned = new Set(options.turned);
  const { lanes, isGrouped } = options;
  if (lanes === undefined) return layOutLevel(ordered, '', 1, isGrouped, turned);
  return splitLanes(ordered, lanes).flatMap(([value, members]): ChartRow[] => {
    const key = `${lanes}:${value ?? ''}`;
    const isFolded = turned.has(key);
    const head: ChartRow = { type: 'lane', key, level: 1, value, by: lanes, members, isFolded };
    return isFolded ? [head] : [head, ...layOutLevel(members, `${key} `, 2, isGrouped, turned)];
  });
}

/** The strips in their order; unknown values stand last, ties keep the order of their starts. */
export function sortStrips(placed: readonly Placed[], order: StripOrder): readonly Placed[] {
  if (order === 'start') return placed;
  const value = ({ row, endMs }: Placed): number =>
    order === 'end' ? (endMs ?? Number.POSITIVE_INFINITY) : -(measureOf(row, order) ?? Number.NEGATIVE_INFINITY);
  const keyed = placed.map((one) => ({ one, value: value(one) }));
  // Two unknown values are as far from one another as none.
  return keyed.sort((a, b) => (a.value === b.value ? 0 : a.value - b.value)).map(({ one }) => one);
}

function splitLanes(placed: readonly Placed[], by: LaneId): [string | undefined, Placed[]][] {
  const { keyOf, order } = LANES[by];
  // What is unknown has a lane of its own.
  const lanes = new Map<string | undefined, Placed[]>();
  for (const one of placed) addTo(lanes, keyOf(one.row), one);
  const rank = (value: string | undefined): number => {
    if (value === undefined) return Number.POSITIVE_INFINITY;
    const known: readonly string[] = order ?? [];
    return by === 'depth' ? Number(value) : known.indexOf(value);
  };
  return [...lanes].sort(([a], [b]) => (rank(a) === rank(b) ? 0 : rank(a) - rank(b)));
}

function layOutLevel(
  placed: readonly Placed[],
  prefix: string,
  level: 1 | 2,
  isGrouped: boolean,
  turned: ReadonlySet<string>,
): ChartRow[] {
  const strip = (one: Placed, at: 1 | 2 | 3): ChartRow => ({
    type: 'strip',
    key: String(one.row.index),
    placed: one,
    level: at,
  });
  if (!isGrouped) return placed.map((one) => strip(one, level));
  const below = level === 1 ? 2 : 3;
  return [...groupBy(placed, ({ row }) => row.endpoint)].flatMap(([endpoint, members]): ChartRow[] => {
    const [first] = members;
    if (first === undefined) return [];
    if (members.length === 1) return [strip(first, level)];
    const key = `${prefix}${endpoint}`;
    const isFolded = !turned.has(key);
    const head: ChartRow = { type: 'lane', key, level, value: endpoint, by: 'endpoint', members, isFolded };
    return isFolded ? [head] : [head, ...members.map((one) => strip(one, below))];
  });
}
