import { formatBytes } from '../../wording';
import type { Rule } from '../finding';
import { called } from '../say';

/** Answers that broke off: by the recorder's word, or with fewer bytes than Content-Length promised (RFC 9112 6.3). */
export const cutShort: Rule = function* (subject) {
  for (const row of subject.rows) {
    const evidence = subject.evidenceOf(row.index);
    if (evidence === undefined || row.kind === 'stream' || row.method === 'HEAD' || row.status === 304) continue;
    const declared = Number(evidence.responseHeaders.get('content-length') ?? Number.NaN);
    const received = evidence.recordedBytes;
    const isPlain = !evidence.responseHeaders.has('content-encoding') && row.source === 'network';
    // Recorders keep text as characters: another charset, or a byte order mark, took more bytes on the wire.
    const cameWhole = (row.wireBytes ?? 0) >= declared;
    const isShort = isPlain && !cameWhole && received !== undefined && received > 0 && received < declared;
    // Browsers give up what was answered with an error without reading on: the error is the matter.
    const isError = (row.status ?? 0) >= 400;
    const isTorn = evidence.outcome === 'cut' && row.failure !== undefined && !isError;
    if (!isTorn && !isShort) continue;
    yield {
      severity: 'broken',
      claim: isShort
        ? `${called(row)} broke off: ${formatBytes(received)} of ${formatBytes(declared)} came`
        : `${called(row)} broke off after its headers`,
      detail:
        row.failure === undefined ? 'The recorder counts it as a success.' : `The recorder wrote: ${row.failure}.`,
      evidence: [row.index],
      cost: { routeMs: subject.routeMsOf(row.index) },
      remedy: 'See whether the server or a proxy on the way ended the connection: its log has the bytes it sent.',
      confidence: isTorn ? 'certain' : 'strong',
    };
  }
};
