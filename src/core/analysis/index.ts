// A capture as a whole: row.ts puts each exchange into its context; the rest sums over rows.

export { type Clocks, clockOffsetMs, judgeClocks } from './clock';
export { type Connection, findConnections } from './connections';
export type { ExchangeRow } from './exchange-row';
export { type ExchangeFacts, takeFacts } from './facts';
export { FactsPool } from './facts-pool';
export { type FoundGoal, findGoal, type Moments, type RouteTo, readRouteTo, type Target, TO_LOAD } from './goal';
export { findLostDocument } from './lost-document';
export { hostInWords, isOfExtension, NO_HOST, nameExchange, nameHost } from './naming';
export { classifyOutcome, OUTCOME_CLASSES, type OutcomeClass } from './outcome';
export { ANALYSIS_VERSION, analyse, type CaptureOverview, type PageOverview } from './overview';
export { HASHED_CHARS, hashPayload, requestKey } from './request-key';
export { ofLoad, ofSite, routeStops } from './route-stop';
export { onPages } from './row';
export {
  columnOf,
  FLAG_COLUMNS,
  NUMBER_COLUMNS,
  ROW_FIELDS,
  type RowColumn,
  raiseRow,
  TEXT_COLUMNS,
} from './row-fields';
export { middleOf, type Spread, spreadOf } from './spread';
export { tellStory } from './story';
export { isSpared, savedShare, type Tally, tally } from './summary';
export { findSurroundings, isAlone, type Surroundings } from './surroundings';
export { throughputOf } from './throughput';
export { hasAnyTime, howTimed } from './timed';
export {
  type CallField,
  type Course,
  compareCalls,
  findStep,
  leavesOf,
  requestFields,
  type Variation,
} from './variation';
export { WindowTally } from './window-tally';
