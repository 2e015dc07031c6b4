// A draft sent over a range of values: which request comes next and when it is over (series.ts), how long a busy server is
// waited for (retry.ts), what was gathered as a table (rows.ts), how to get more of it (grow.ts), what a watch waits for
// (condition.ts), and values from a table (values.ts).
export { isMeasure, judge, loopOfWatch, readCondition, tellSubject } from './condition';
export { Grow, type GrowState, sizeParameter } from './grow';
export { waitBefore } from './retry';

export { countRepeated, type GatheredRow, rowsAsCsv, rowsAsJson, rowsAsLines, type TableChoice } from './rows';
export {
  Series,
  type SeriesLoop,
  type SeriesResponse,
  type SeriesState,
} from './series';
export { columnsOf, typedColumn } from './values';
