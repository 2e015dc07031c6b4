// What leaves the product as a file or as printed text: lists of exchanges as JSON and CSV.

export { BUDGETS, type Budget, type Checked, checkBudgets, checkedToJunit, isRule, readBudget } from './budget';
export { explainJson, inFlightOf } from './explain';
export { rowJson, rowsToCsv, toCsv } from './list';
