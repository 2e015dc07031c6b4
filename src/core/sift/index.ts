// The sift: text -> tokens -> tree (parse, print) -> mask over columns (evaluate), and what could be typed next (complete).
export { Columns, columnName, type ExtraColumns, isExtraColumn, numberOf } from './columns';
export { completeSift, type KnownName } from './complete';
export { evaluateSift } from './evaluate';
export { type FieldRef, type NamedField, type NumberField, specOf } from './fields';
export { NameCounter, NamedCells } from './named';
export { parseSift } from './parse';
export { printField, printSift, printValue } from './print';
export { wordSiftProblem } from './problem';
export { fieldsOf, hasRegex, type Sift, toggleTerm } from './tree';
