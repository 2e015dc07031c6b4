/** The parts that a report may have, in their order. */
export const REPORT_PARTS = [
  'figures',
  'route',
  'ledger',
  'findings',
  'failed',
  'slowest',
  'waterfall',
  'comparison',
  'noted',
  'sent',
  'condition',
] as const;
export type ReportPart = (typeof REPORT_PARTS)[number];
