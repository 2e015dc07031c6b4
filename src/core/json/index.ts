// JSON as it was sent, its very characters kept: where each value lies in the text (tree.ts), what a path leads to
// (path.ts), laid out for reading (layout.ts), and arrays of objects as tables (table.ts).
export { parseExactJson, textAt, writeExactJson } from './exact';
export { formatJson } from './layout';
export { parseJson } from './parse';
export { jsonPathsAt } from './path';
export { arraySlices, cellsOf, compactJson } from './slices';
export { EACH, type JsonSteps, PATH_STYLES, type PathStyle, readPath, writePath, writeStep } from './steps';
export { buildTable, findTables, type JsonTable, orderTable, tableCells } from './table';
export {
  type JsonTree,
  keyOf,
  kindOf,
  membersOf,
  nodeAt,
  nodeText,
  pathTo,
  plainValue,
  previewOf,
  readJsonTree,
  visibleNodes,
} from './tree';
export { valueAt } from './value-at';
