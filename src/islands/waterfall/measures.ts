import type { ExchangeRow } from '#core/analysis';
import { type NumberField, numberOf } from '#core/filter';
import { formatBytes, formatExactBytes, formatMs } from '#core/wording';

/** What the right edge can tell of each strip. The fields are the filter's, so that each can be filtered by. */
export const MEASURES = {
  time: { label: 'duration', format: formatMs },
  wait: { label: 'wait', format: formatMs },
  setup: { label: 'connection set-up', format: formatMs },
  receive: { label: 'receive', format: formatMs },
  wire: { label: 'on the wire', format: formatBytes },
  body: { label: 'decoded', format: formatBytes },
  saved: { label: 'bytes from cache', format: formatBytes },
  depth: {
    label: 'depth',
    format: (steps: number | undefined): string => (steps === undefined ? 'unknown' : String(steps)),
  },
} as const satisfies Partial<
  Record<NumberField, { readonly label: string; readonly format: (value: number | undefined) => string }>
>;
export type MeasureId = keyof typeof MEASURES;
export const MEASURE_IDS = Object.keys(MEASURES) as MeasureId[];

/** The measure of that name; "download" is what older addresses say. */
export function findMeasure(asked: string | undefined): MeasureId {
  const name = asked === 'download' ? 'receive' : asked;
  return MEASURE_IDS.find((id) => id === name) ?? 'time';
}

export const measureOf = (row: ExchangeRow, id: MeasureId): number | undefined => numberOf(row, id);

/** The value to the last byte or a thousandth of a ms, for whom the rounded one is not enough. */
export function exactly(id: MeasureId, value: number | undefined): string {
  if (value === undefined) return `${MEASURES[id].label} unknown`;
  if (id === 'wire' || id === 'body' || id === 'saved') return `${MEASURES[id].label}: ${formatExactBytes(value)}`;
  return `${MEASURES[id].label}: ${id === 'depth' ? value : `${Math.round(value * 1000) / 1000} ms`}`;
}

/** Sums make sense of bytes and of times spent; of depth only the greatest does. */
export function sumUp(rows: readonly ExchangeRow[], id: MeasureId): number | undefined {
  let sum: number | undefined;
  for (const row of rows) {
    const value = measureOf(row, id);
    if (value === undefined) continue;
    sum = sum === undefined ? value : id === 'depth' ? Math.max(sum, value) : sum + value;
  }
  return sum;
}
