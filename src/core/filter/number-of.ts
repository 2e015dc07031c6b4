import { type ExchangeRow, isSpared } from '../analysis';
import { setupMs } from '../model';
import type { DeltaField, NumberField } from './fields';

/** A measure of an exchange by itself: ms, bytes or a count; undefined where it is unknown. */
export function numberOf(row: ExchangeRow, field: Exclude<NumberField, 'roundtrip' | DeltaField>): number | undefined {
  switch (field) {
    case 'number':
      return row.index;
    case 'status':
      return row.status;
    case 'time':
      return row.timeMs;
    case 'start':
      return row.startMs;
    case 'end':
      return row.startMs === undefined || row.timeMs === undefined ? undefined : row.startMs + row.timeMs;
    case 'blocked':
      return row.phases.blockedMs;
    case 'setup':
      return setupMs(row.phases);
    case 'wait':
      return row.phases.waitMs;
    case 'receive':
      return row.phases.receiveMs;
    case 'wire':
      return row.wireBytes;
    case 'body':
      return row.bodyBytes;
    case 'saved':
      return row.bodyBytes === undefined ? undefined : isSpared(row) ? row.bodyBytes : 0;
    case 'depth':
      return row.depth;
    case 'fresh':
      return row.freshSeconds === undefined ? undefined : row.freshSeconds * 1000;
    default:
      return field satisfies never;
  }
}
