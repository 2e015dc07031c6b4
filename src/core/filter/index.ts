// The filter: text -> tokens -> tree (parse, print) -> mask over columns (evaluate), and what could be typed next (complete).
export {
  Columns,
  type ComparedColumns,
  columnName,
  type ExtraColumns,
  isExtraColumn,
  MARKED_COLUMN,
  NOTE_COLUMN,
} from './columns';
export { completeFilter, type KnownName } from './complete';
export { evaluateFilter } from './evaluate';
export { type DeltaField, type FieldRef, type NamedField, type NumberField, specOf, type TextField } from './fields';
export { meantFilter } from './meant';
export { NameCounter, NamedCells } from './named';
export { numberOf } from './number-of';
export { parseFilter } from './parse';
export { printField, printFilter, printValue } from './print';
export { wordFilterProblem } from './problem';
export { type Filter, fieldsOf, hasRegex, needsBodies, toggleTerm } from './tree';
export { type Reading, readTyped, type TypedFilter } from './typed';
