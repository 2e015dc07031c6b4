import type { ExchangeRow } from '../../analysis';
import type { FailReason } from '../../model';
import { formatBytes } from '../../wording';
import { declaredBytes, isCutShort } from '../declared';
import type { Evidence } from '../evidence';
import type { Finding, Matter, Rule, Subject } from '../finding';
import { mattersOf } from '../once';
import { documentOf, goesElsewhere } from '../origin';
import { called } from '../say';
import { crossOrigin } from './cross-origin';
import { unreadable } from './unreadable';

/** Responses that was cut off: by the recorder's word, or with fewer bytes on the wire than Content-Length promised (RFC 9112 6.3). */
export const cutShort: Rule = function* (subject) {
  const told = new Set(
    [crossOrigin, unreadable].flatMap((rule) => mattersOf(rule, subject)).flatMap(({ evidence }) => evidence),
  );
  for (const row of subject.asked) {
    const evidence = subject.evidenceOf(row.index);
    if (evidence === undefined || told.has(row.index) || row.kind === 'stream' || row.method === 'HEAD') continue;
    const declared = declaredBytes(row, evidence);
    const isShort = isCutShort(row, evidence);
    const { failure } = row;
    // Browsers give up what was answered with an error without reading on: the error is the matter.
    const isTorn = failure?.type === 'cut-off' && failure.status < 400;
    if (!isTorn && !isShort) continue;
    const instead = row.kind === 'document' ? findNoPage(row.status, evidence) : undefined;
    if (instead !== undefined) {
      yield { severity: 'note', evidence: [row.index], confidence: 'strong', ...instead(called(row)) };
      continue;
    }
    if (isTorn && failure.reason === 'cancelled' && isOpaque(subject, row, evidence)) {
      yield {
        ...OPAQUE,
        claim: `${called(row)} returned ${row.status}, and its page could not read it`,
        evidence: [row.index],
      };
      continue;
    }
    const recorded = isTorn ? failure.recorded : undefined;
    yield {
      ...(isTorn ? tellTorn(subject, row, failure.reason) : tellShort(called(row), row.wireBytes ?? 0, declared ?? 0)),
      detail: `${recorded === undefined ? 'The recorder counts it as a success' : `The recorder wrote: ${recorded.slice(0, 200)}`}. Status ${row.status}${declared === undefined ? '' : `, Content-Length ${formatBytes(declared)}`}.`,
      evidence: [row.index],
    };
  }
};

/**
 * A call to another origin whose response came without leave: asked for by the mode no-cors, else the browser had kept the
 * response. It is opaque to the page, and the browser lets the body go (Fetch 2.2.6).
 */
const isOpaque = (subject: Subject, row: ExchangeRow, { requestHeaders, responseHeaders }: Evidence): boolean =>
  row.kind === 'data' &&
  (requestHeaders.get('sec-fetch-mode') ?? 'no-cors') === 'no-cors' &&
  !responseHeaders.has('access-control-allow-origin') &&
  goesElsewhere(subject, row);
const OPAQUE: Omit<Matter, 'claim' | 'evidence'> = {
  severity: 'note',
  detail:
    'It was asked for without CORS (mode no-cors): such a response is opaque, and recorders note it as cancelled.',
  remedy: 'Nothing, where the page only sends; to read the response, ask for it by CORS.',
  confidence: 'strong',
};

const tellShort = (
  name: string,
  cameBytes: number,
  declared: number,
): Pick<Matter, 'severity' | 'claim' | 'remedy' | 'confidence'> => ({
  severity: 'broken',
  claim: `${name} was cut off: ${formatBytes(cameBytes)} arrived on the wire, headers included, of ${formatBytes(declared)}`,
  remedy: 'Check whether the server or a proxy ended the connection: its log has the bytes it sent.',
  confidence: 'strong',
});

function tellTorn(
  subject: Subject,
  row: ExchangeRow,
  reason: FailReason,
): Pick<Matter, 'severity' | 'claim' | 'remedy' | 'confidence'> {
  const name = called(row);
  if (reason === 'response-blocked' || reason === 'blocked-by-corp') return tellKeptBack(subject, row);
  if (reason === 'cancelled') {
    return {
      severity: 'note',
      claim: `${name} was cancelled in the browser after its headers had arrived`,
      remedy: 'Nothing if the page meant to; else check what navigates away or aborts.',
      confidence: 'certain',
    };
  }
  return {
    severity: 'broken',
    claim: `${name} was cut off after its headers had arrived`,
    remedy: 'The server, a proxy on the way or the network ended it: the server’s log has the bytes it sent.',
    confidence: reason === 'unknown' ? 'weak' : 'certain',
  };
}

/** What the browser kept from the page: a document in a frame, maybe, by what its own headers say of frames. */
function tellKeptBack(
  subject: Subject,
  row: ExchangeRow,
): Pick<Matter, 'severity' | 'claim' | 'remedy' | 'confidence'> {
  // What the window itself went to is its page's document.
  const isFramed = row.kind === 'document' && documentOf(subject, row)?.index !== row.index;
  const refusal = isFramed ? frameRefusal(subject, row) : undefined;
  if (refusal !== undefined)
    return {
      severity: 'broken',
      claim: `${called(row)} was not shown in its frame: its ${refusal}`,
      remedy: 'Where that page may frame it, name its origin in frame-ancestors; else do not frame it.',
      confidence: 'strong',
    };
  const policies = isFramed
    ? 'X-Frame-Options, frame-ancestors or Cross-Origin-Embedder-Policy'
    : 'CORS, Cross-Origin-Resource-Policy or opaque response blocking';
  return {
    severity: 'broken',
    claim: `${called(row)} got a response, and the browser kept the response from the page`,
    remedy: `The console names the policy: ${policies}.`,
    confidence: 'certain',
  };
}

/**
 * What keeps a document out of its frame: frame-ancestors, else X-Frame-Options (CSP 6.4.2, HTML 7.7). Undefined where
 * neither does: any page may frame it, its own origin may and does, or its value is none.
 */
function frameRefusal(subject: Subject, row: ExchangeRow): string | undefined {
  const headers = subject.evidenceOf(row.index)?.responseHeaders;
  const isElsewhere = goesElsewhere(subject, row);
  const policy = headers?.get('content-security-policy') ?? '';
  const ancestors = /(?:^|;)\s*frame-ancestors\b([^;]*)/i.exec(policy)?.[1]?.trim();
  if (ancestors !== undefined) {
    const names = ancestors.toLowerCase().split(/\s+/);
    if (names.includes('*') || (names.includes("'self'") && !isElsewhere)) return undefined;
    return `Content-Security-Policy says frame-ancestors ${ancestors.slice(0, 100)}`.trim();
  }
  const options = headers?.get('x-frame-options')?.trim().toUpperCase() ?? '';
  return options === 'DENY' || (options === 'SAMEORIGIN' && isElsewhere) ? `X-Frame-Options is ${options}` : undefined;
}

type Told = Pick<Finding, 'claim' | 'detail' | 'remedy'>;

/** Navigations that recorders note as broken off, though nothing of a page was to come. */
function findNoPage(status: number | undefined, { responseHeaders }: Evidence): ((name: string) => Told) | undefined {
  if (status === 204 || status === 205) {
    return (name) => ({
      claim: `${name} returned ${status}: there is no page to go to`,
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
