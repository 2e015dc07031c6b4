import type { ExchangeRow } from '../analysis';
import type { Evidence } from './evidence';

/** Whether fewer bytes came on the wire than were promised. */
export function isCutShort(row: ExchangeRow, evidence: Evidence): boolean {
  const declared = declaredBytes(row, evidence);
  // Recorders that miscount the wire keep the body all the same.
  const cameWhole =
    !evidence.responseHeaders.has('content-encoding') && (evidence.recordedBytes ?? 0) >= (declared ?? 0);
  return declared !== undefined && row.wireBytes !== undefined && row.wireBytes < declared && !cameWhole;
}

/** What Content-Length promises of the bytes on the wire; a 304 has the length of what is not sent (RFC 9110 8.6). */
export function declaredBytes(row: ExchangeRow, { responseHeaders }: Evidence): number | undefined {
  const text = responseHeaders.get('content-length')?.trim() ?? '';
  const isWhole = row.source === 'network' && row.status !== 304 && row.status !== 204;
  return isWhole && /^\d+$/.test(text) ? Number(text) : undefined;
}
