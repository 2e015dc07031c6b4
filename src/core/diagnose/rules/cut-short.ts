import { formatBytes, wordFailure } from '../../wording';
import type { Evidence } from '../evidence';
import type { Finding, Rule } from '../finding';
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
    const instead = row.kind === 'document' ? findNoPage(row.status, evidence) : undefined;
    if (instead !== undefined) {
      yield { severity: 'note', evidence: [row.index], cost: {}, confidence: 'strong', ...instead(called(row)) };
      continue;
    }
    yield {
      severity: 'broken',
      claim: isShort
        ? `${called(row)} broke off: ${formatBytes(received)} of ${formatBytes(declared)} came`
        : `${called(row)} broke off after its headers`,
      detail:
        row.failure === undefined
          ? 'The recorder counts it as a success.'
          : `The recorder wrote: ${wordFailure(row.failure)}.`,
      evidence: [row.index],
      cost: { routeMs: subject.routeMsOf(row.index) },
      remedy: 'See whether the server or a proxy on the way ended the connection: its log has the bytes it sent.',
      confidence: isTorn ? 'certain' : 'strong',
    };
  }
};

type Told = Pick<Finding, 'claim' | 'detail' | 'remedy'>;

/** Navigations that recorders note as broken off, though nothing of a page was to come. */
function findNoPage(status: number | undefined, { responseHeaders }: Evidence): ((name: string) => Told) | undefined {
  if (status === 204 || status === 205) {
    return (name) => ({
      claim: `${name} was answered ${status}: there is no page to go to`,
      detail: 'The browser stays where it was (RFC 9110 15.3.5); the recorder notes that as broken off.',
      remedy: 'Nothing, where the link is meant to do something and stay.',
    });
  }
  if (!/^\s*attachment/i.test(responseHeaders.get('content-disposition') ?? '')) return undefined;
  return (name) => ({
    claim: `${name} was saved as a file, not shown`,
    detail: 'Content-Disposition: attachment makes a download of it; the recorder notes the navigation as broken off.',
    remedy: 'Nothing, where it is meant to be saved; else leave the header out.',
  });
}
