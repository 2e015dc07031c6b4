import { classifyOutcome, type ExchangeRow } from '#core/analysis';
import { KINDS } from '#core/model';

/** By what strips can be put into lanes. The ids are fields of the filter, so that each lane can be filtered by. */
export const LANES = {
  host: { label: 'host', keyOf: (row) => row.host, order: undefined },
  party: { label: 'party', keyOf: (row) => row.party, order: ['first', 'third'] },
  kind: { label: 'kind', keyOf: (row) => row.kind, order: KINDS },
  outcome: { label: 'outcome', keyOf: (row) => classifyOutcome(row), order: ['failed', 'redirect', 'cached', 'plain'] },
  source: { label: 'source', keyOf: (row) => row.source, order: undefined },
  depth: { label: 'depth', keyOf: (row) => row.depth?.toString(), order: undefined },
  connection: { label: 'connection', keyOf: (row) => row.connection, order: undefined },
} as const satisfies Record<
  string,
  {
    readonly label: string;
    readonly keyOf: (row: ExchangeRow) => string | undefined;
    /** The lanes in this order; without one, in the order in which they begin. */
    readonly order: readonly string[] | undefined;
  }
>;
export type LaneId = keyof typeof LANES;
export const LANE_IDS = Object.keys(LANES) as LaneId[];

export const findLanes = (asked: string | undefined): LaneId | undefined => LANE_IDS.find((id) => id === asked);
