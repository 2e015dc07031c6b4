import { Columns, columnName, evaluateFilter, fieldsOf, hasRegex, readTyped, wordFilterProblem } from '#core/filter';
import { markColumns } from '../marks/mark-columns';

/** What reads a filter and applies it: fetched behind the first view, or with it where the address has a filter. */
export const filtering = {
  Columns,
  columnName,
  evaluateFilter,
  fieldsOf,
  hasRegex,
  markColumns,
  readTyped,
  wordFilterProblem,
};
export type Filtering = typeof filtering;
