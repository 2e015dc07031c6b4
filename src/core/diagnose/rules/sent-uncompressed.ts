import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { acceptsCoding } from '../../http';
import { formatBytes } from '../../wording';
import { isCutShort } from '../declared';
import type { Rule } from '../finding';
import { called, calledAll, indexes, sum } from '../say';

/** Less than a tenth is not worth the work. */
const WORTH_SHARE = 0.1;
const WORTH_BYTES = 1000;
/** What a new connection brings in its first round trip: ten segments (RFC 6928). */
const FIRST_BURST_BYTES = 14_600;

/** Text that crossed the network as it is; the saving is measured on the very bytes that were recorded. */
export const sentUncompressed: Rule = function* (subject) {
  const savedOf = ({ index }: ExchangeRow): number => {
    const { recordedBytes = 0, compressedBytes = recordedBytes } = subject.evidenceOf(index) ?? {};
    return recordedBytes - compressedBytes;
  };
  const worth = subject.rows.filter((row) => {
    const saved = savedOf(row);
    const evidence = subject.evidenceOf(row.index);
    if (evidence === undefined || row.failure !== undefined || isCutShort(row, evidence)) return false;
    if (!takesCompressed(evidence.requestHeaders.get('accept-encoding'))) return false;
    return saved >= WORTH_BYTES && saved >= (evidence.recordedBytes ?? 0) * WORTH_SHARE;
  });
  for (const [host, rows] of groupBy(worth, (row) => row.host)) {
    const [largest] = rows.sort((a, b) => savedOf(b) - savedOf(a));
    if (largest === undefined) continue;
    const evidence = subject.evidenceOf(largest.index);
    yield {
      severity: 'costly',
      claim:
        rows.length === 1
          ? `${called(largest)} is sent uncompressed: ${formatBytes(evidence?.recordedBytes)} that gzip makes ${formatBytes(evidence?.compressedBytes)}`
          : `${calledAll(rows)} from ${host} are sent uncompressed: gzip saves ${formatBytes(sum(rows, savedOf))}`,
      detail:
        rows.length === 1
          ? 'Measured on the recorded bytes.'
          : `The largest, ${called(largest)}: ${formatBytes(evidence?.recordedBytes)}, compressed ${formatBytes(evidence?.compressedBytes)}, measured on the recorded bytes.`,
      evidence: indexes(rows),
      // The download shrinks as the bytes do; what comes in the first burst comes no sooner for being smaller.
      changes: rows
        .filter(({ wireBytes = 0 }) => wireBytes > FIRST_BURST_BYTES)
        .map((row) => ({
          type: 'download-share',
          indexes: new Set([row.index]),
          share: 1 - savedOf(row) / (subject.evidenceOf(row.index)?.recordedBytes ?? 1),
        })),
      wireBytes: sum(rows, savedOf),
      remedy: 'Enable Brotli or gzip for this content type.',
      confidence: 'certain',
    };
  }
};

const CODINGS = ['gzip', 'deflate', 'br', 'zstd'];

/** Whether a request lets its response be compressed; one that says nothing of it may have lost its headers. */
const takesCompressed = (accepted: string | undefined): boolean =>
  accepted === undefined || acceptsCoding(accepted, CODINGS);
