// What leaves the product as a file or as printed text: lists of exchanges as JSON and CSV.

export { explainJson, inFlightOf } from './explain';
export { rowJson, rowsToCsv, toCsv } from './list';
