// What leaves the product as a file or as printed text: lists of exchanges as JSON and CSV,
// budgets and what is checked against them, and the report of a capture as blocks (capture-report.ts) in HTML or Markdown.

export { isRule, readAllowance, readBudget } from './budget';
export { type SentInReport, tellFinding, writeReport } from './capture-report';
export { type CheckedCapture, checkAgainst, checkBudgets } from './check';
export { checkedLines, checkedToJunit } from './check-print';
export { REPORT_FORMATS, type ReportDocument, type ReportFormat } from './document';
export { type Explanation, explainJson } from './explain';
export { reportToHtml } from './html';
export { rowJson, rowsToCsv, toCsv } from './list';
export { logLine } from './log-line';
export { blocksToMarkdown, reportToMarkdown } from './markdown';
export { type NotedExchange, notedIndexes } from './noted';
export { pagesOfPart } from './part';
export { REPORT_PARTS, type ReportPart } from './parts';
