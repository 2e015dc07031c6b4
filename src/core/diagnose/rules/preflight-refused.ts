import type { Evidence } from '../evidence';
import type { Rule } from '../finding';
import { called } from '../say';

/** Preflights that did not get leave (WHATWG Fetch, CORS-preflight fetch), with the header that is missing. */
export const preflightRefused: Rule = function* (subject) {
  for (const row of subject.rows) {
    const evidence = subject.evidenceOf(row.index);
    if (row.method !== 'OPTIONS' || evidence?.requestHeaders.has('access-control-request-method') !== true) continue;
    const missing = findMissing(evidence, row.status);
    if (missing === undefined) continue;
    const main = subject.rowOf(row.preflightFor);
    yield {
      severity: 'broken',
      claim: `The preflight for ${called(main ?? row)} was refused: ${missing}`,
      detail: `The page of ${evidence.requestHeaders.get('origin') ?? 'another origin'} asked ${row.host} for leave.`,
      evidence: main === undefined ? [row.index] : [row.index, main.index],
      cost: { routeMs: subject.routeMsOf(row.index) },
      remedy: 'Have the server answer OPTIONS with 204 and the Access-Control headers that the request asks for.',
      confidence: 'certain',
    };
  }
};

function findMissing({ requestHeaders, responseHeaders }: Evidence, status: number | undefined): string | undefined {
  if (status === undefined) return 'no answer came';
  if (status < 200 || status >= 300) return `it was answered ${status}`;
  const origin = requestHeaders.get('origin');
  const allowed = responseHeaders.get('access-control-allow-origin');
  if (allowed === undefined) return 'the answer has no Access-Control-Allow-Origin';
  if (allowed !== '*' && origin !== undefined && allowed !== origin) return `Access-Control-Allow-Origin is ${allowed}`;
  const method = requestHeaders.get('access-control-request-method') ?? '';
  // Methods are compared letter by letter, names of headers are not; "*" never stands for Authorization.
  const methods = listOf(responseHeaders.get('access-control-allow-methods'));
  const isSimple = /^(GET|HEAD|POST)$/.test(method);
  if (!isSimple && !methods.includes(method) && !methods.includes('*')) {
    return `Access-Control-Allow-Methods lacks ${method}`;
  }
  const headers = listOf(responseHeaders.get('access-control-allow-headers')?.toLowerCase());
  const lacking = listOf(requestHeaders.get('access-control-request-headers')?.toLowerCase()).filter(
    (name) => !headers.includes(name) && (name === 'authorization' || !headers.includes('*')),
  );
  return lacking.length === 0 ? undefined : `Access-Control-Allow-Headers lacks ${lacking.join(', ')}`;
}

const listOf = (value: string | undefined): string[] =>
  (value ?? '')
    .split(',')
    .map((item) => item.trim())
    .filter(Boolean);
