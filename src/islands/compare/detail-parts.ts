/** What can be opened between the difference and the pairs. */
export const PARTS = {
  causes: { label: 'What made it', key: '1' },
  findings: { label: 'Findings', key: '2' },
  sums: { label: 'Sums', key: '3' },
  cache: { label: 'Cache', key: '4' },
  connection: { label: 'Connection', key: '5' },
  loads: { label: 'Loads and hosts', key: '6' },
} as const;
export type PartId = keyof typeof PARTS;
