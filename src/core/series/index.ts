// A draft sent over a range of values: which request comes next and when it is over (series.ts), how long a busy server is
// waited for (retry.ts), and what was gathered as a table (rows.ts).
export { type Wait, waitBefore } from './retry';
export { countRepeated, type GatheredRow, rowsAsCsv, rowsAsJson, rowsAsLines, type TableChoice } from './rows';
export {
  Series,
  type SeriesEnd,
  type SeriesLoop,
  type SeriesRequest,
  type SeriesResponse,
  type SeriesState,
} from './series';
