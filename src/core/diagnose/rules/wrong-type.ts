import type { ExchangeRow } from '../../analysis';
import { essence } from '../../har';
import type { Evidence } from '../evidence';
import type { Rule } from '../finding';
import { called } from '../say';

const NEVER_A_PAGE: ReadonlySet<string> = new Set(['script', 'style', 'image', 'font']);

/** A page of HTML where something else was asked for: a sign-in or an error page in disguise. */
export const wrongType: Rule = function* (subject) {
  const jsonEndpoints = new Set(
    subject.asked.flatMap(({ endpoint, mimeType, failure }) =>
      failure === undefined && isJson(mimeType) ? endpoint : [],
    ),
  );
  for (const row of subject.asked) {
    const evidence = subject.evidenceOf(row.index);
    if (evidence !== undefined && isNoStream(row, evidence)) {
      yield {
        severity: 'broken',
        claim: `${called(row)} is of type ${essence(row.mimeType)}, where an event stream was asked for`,
        detail: `Its status is ${row.status}. An EventSource takes no other type than text/event-stream, and does not connect again (HTML 9.2.2).`,
        evidence: [row.index],
        remedy: 'Send it as text/event-stream; look at its body in its dossier: it may be an error, or a sign-in.',
        confidence: 'strong',
      };
      continue;
    }
    if (evidence?.isPage !== true || row.status === undefined || row.status >= 300) continue;
    const wantsJson = row.kind === 'data' && wantsData(row, evidence, jsonEndpoints);
    if (!NEVER_A_PAGE.has(row.kind) && !wantsJson) continue;
    yield {
      severity: 'broken',
      claim: `${called(row)} is a page of HTML where ${wantsJson ? 'JSON' : `${row.kind === 'image' ? 'an' : 'a'} ${row.kind}`} was asked for`,
      detail: `Its status is ${row.status}, its type ${row.mimeType ?? 'no type at all'}.`,
      evidence: [row.index],
      remedy: 'Look at the page in its dossier: mostly it is a sign-in or an error page that was sent with status 200.',
      confidence: 'strong',
    };
  }
};

/** Whether something else came where an EventSource asked: it accepts nothing else and no stored copy (HTML 9.2.2); a fetch says less. */
const isNoStream = ({ kind, status, mimeType, failure }: ExchangeRow, { requestHeaders }: Evidence): boolean =>
  kind === 'stream' &&
  failure === undefined &&
  status === 200 &&
  mimeType !== undefined &&
  essence(mimeType) !== 'text/event-stream' &&
  requestHeaders.get('accept')?.trim() === 'text/event-stream' &&
  requestHeaders.get('cache-control')?.trim() === 'no-cache';

const isJson = (mimeType: string | undefined): boolean => /[/+]json\b/i.test(mimeType ?? '');

/** Whether JSON was asked for: by Accept, by the URL, or since other calls of the endpoint were answered with it. */
function wantsData(row: ExchangeRow, { requestHeaders }: Evidence, jsonEndpoints: ReadonlySet<string>): boolean {
  const accept = requestHeaders.get('accept') ?? '';
  if (/html/i.test(accept)) return false;
  return (
    /json/i.test(accept) || isJson(row.mimeType) || /\.json(\?|$)/i.test(row.url) || jsonEndpoints.has(row.endpoint)
  );
}
