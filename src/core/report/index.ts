// What leaves the product as a file or as printed text: lists of exchanges as JSON and CSV.

export { isRule, readAllowance, readBudget } from './budget';
export { type CheckedCapture, checkAgainst, checkBudgets } from './check';
export { checkedLines, checkedToJunit } from './check-print';
export { type Explanation, explainJson } from './explain';
export { exactMs, rowJson, rowsToCsv, toCsv } from './list';
export { logLine } from './log-line';
export { pagesOfPart } from './part';
