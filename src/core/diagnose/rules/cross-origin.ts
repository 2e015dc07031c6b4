import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { isAllowedByCsp, splitUrl } from '../../http';
import type { Evidence } from '../evidence';
import type { Matter, Rule, Subject } from '../finding';
import { documentOf, goesElsewhere } from '../origin';
import { called, calledAll, indexes } from '../say';

/**
 * What CORS keeps from a page (WHATWG Fetch 4.8 to 4.10): preflights that did not get leave, responses without leave, and
 * requests whose pattern suggests it.
 */
export const crossOrigin: Rule = function* (subject) {
  const told = new Set<number>();
  for (const row of subject.asked) {
    const found = row.kind === 'preflight' ? refusedPreflight(subject, row) : refusedResponse(subject, row);
    if (found === undefined) continue;
    for (const index of found.evidence) told.add(index);
    yield found;
  }
  const alike = subject.asked.filter((row) => !told.has(row.index) && looksLikeIt(subject, row));
  for (const [, rows] of groupBy(alike, (row) => `${row.host} ${isRefusedByPolicy(subject, row)}`)) {
    const [first] = rows;
    const { host } = first;
    const origin = originOf(subject.evidenceOf(first.index));
    if (isRefusedByPolicy(subject, first)) {
      yield {
        severity: 'broken',
        claim: `${calledAll(rows)} to ${host} failed, most likely blocked by the page’s Content-Security-Policy`,
        detail: `Neither connect-src nor default-src of the page’s document lists ${host}; the browser gave no more than a general failure.`,
        evidence: indexes(rows),
        remedy: `Add ${host} to connect-src, or leave the request out; the console names the directive.`,
        confidence: 'strong',
      };
      continue;
    }
    yield {
      severity: 'broken',
      claim: `${calledAll(rows)} to ${host} failed, possibly because CORS headers are missing`,
      detail: `${rows.length === 1 ? 'It was' : 'They were'} sent to another origin${origin === undefined ? '' : ` from ${origin}`}, and the browser gave no more than a general failure. A network fault would look the same: the console tells them apart, and so does the server’s log, where a request stands that CORS refused.`,
      evidence: indexes(rows),
      remedy: `Where it is CORS: have ${host} respond with Access-Control-Allow-Origin, errors and redirects included.`,
      confidence: 'weak',
    };
  }
};

function refusedPreflight(subject: Subject, row: ExchangeRow): Matter | undefined {
  const evidence = subject.evidenceOf(row.index);
  if (evidence === undefined) return undefined;
  const main = subject.rowOf(row.preflightFor);
  // A preflight whose request went through was not refused, whatever its recorder kept of it.
  if (main !== undefined && main.failure?.type !== 'no-response') return undefined;
  const credentials = main !== undefined && subject.evidenceOf(main.index)?.requestHeaders.has('cookie') === true;
  const missing = missingOf(evidence, row.status, credentials);
  const isOpen = main?.failure?.type === 'no-response' && main.failure.reason === 'unknown' && !credentials;
  const only = isOpen ? wildcardOf(evidence) : undefined;
  if (missing === undefined && only === undefined) return undefined;
  const told = {
    severity: 'broken',
    evidence: main === undefined ? [row.index] : [row.index, main.index],
    remedy: 'Have the server respond to OPTIONS with 204 and the Access-Control headers that the request asks for.',
  } as const;
  const asked = `The page of ${originOf(evidence) ?? 'another origin'} asked ${row.host} for permission.`;
  if (missing === undefined)
    return {
      ...told,
      claim: `The preflight for ${called(main ?? row)} was possibly refused: ${only} is *, which does not cover cookies`,
      detail: `${asked} A preflight carries no cookies itself; where the request was made with credentials, * stands for nothing.`,
      remedy:
        'Where it is made with credentials: name the origin, the methods and the headers, and send Access-Control-Allow-Credentials: true.',
      confidence: 'weak',
    };
  return {
    ...told,
    claim: `The preflight for ${called(main ?? row)} was refused: ${missing.what}`,
    detail: asked,
    confidence: missing.confidence,
  };
}

interface Missing {
  readonly what: string;
  readonly confidence: Matter['confidence'];
}

/** What a preflight's response lacks of leave (Fetch 4.8). */
function missingOf(evidence: Evidence, status: number | undefined, hasCredentials: boolean): Missing | undefined {
  const { requestHeaders, responseHeaders } = evidence;
  if (status === undefined) return { what: 'no response came', confidence: 'weak' };
  const certain = (what: string): Missing => ({ what, confidence: 'certain' });
  if (status < 200 || status >= 300) return certain(`it returned ${status}`);
  const unreadable = whyUnreadable(evidence, hasCredentials);
  if (unreadable !== undefined) return certain(unreadable.replace(/^it has/, 'the response has'));
  const method = requestHeaders.get('access-control-request-method');
  // Methods are compared letter by letter, names of headers are not.
  const methods = listOf(responseHeaders.get('access-control-allow-methods'));
  const isSimple = method === undefined || /^(GET|HEAD|POST)$/.test(method);
  if (!isSimple && !methods.includes(method) && (hasCredentials || !methods.includes('*'))) {
    return certain(`Access-Control-Allow-Methods lacks ${method}`);
  }
  const headers = listOf(responseHeaders.get('access-control-allow-headers')?.toLowerCase());
  const hasAny = headers.includes('*') && !hasCredentials;
  const lacking = listOf(requestHeaders.get('access-control-request-headers')?.toLowerCase()).filter(
    (name) => !headers.includes(name) && (name === 'authorization' || !hasAny),
  );
  if (lacking.length === 0) return undefined;
  // By the standard "*" never stands for Authorization; some browsers let it.
  const isLetBySome = hasAny && lacking.every((name) => name === 'authorization');
  return {
    what: `Access-Control-Allow-Headers lacks ${lacking.join(', ')}`,
    confidence: isLetBySome ? 'strong' : 'certain',
  };
}

/** The header whose * gives the leave that a preflight asks for. */
function wildcardOf({ requestHeaders, responseHeaders }: Evidence): string | undefined {
  const has = (field: string | undefined, value: string): boolean => listOf(field?.toLowerCase()).includes(value);
  const method = requestHeaders.get('access-control-request-method')?.toLowerCase() ?? 'get';
  const names = listOf(requestHeaders.get('access-control-request-headers')?.toLowerCase());
  if (has(responseHeaders.get('access-control-allow-origin'), '*')) return 'Access-Control-Allow-Origin';
  if (!/^(get|head|post)$/.test(method) && !has(responseHeaders.get('access-control-allow-methods'), method))
    return 'Access-Control-Allow-Methods';
  const allowed = responseHeaders.get('access-control-allow-headers');
  return names.every((name) => has(allowed, name)) ? undefined : 'Access-Control-Allow-Headers';
}

const listOf = (value: string | undefined): string[] =>
  (value ?? '')
    .split(',')
    .map((item) => item.trim())
    .filter(Boolean);

/** A response that came, and that the page could not read for want of leave. */
function refusedResponse(subject: Subject, row: ExchangeRow): Matter | undefined {
  const evidence = subject.evidenceOf(row.index);
  if (evidence === undefined || row.status === undefined || row.kind === 'socket' || row.source === 'worker')
    return undefined;
  if (!isAskedByCors(row, evidence)) return undefined;
  // Where it went through, its recorder did not keep the headers, or the browser was told to let it.
  const hasFailed = row.failure?.type === 'cut-off';
  const missing = whyUnreadable(evidence);
  if (missing === undefined) return undefined;
  // Of what a page could not read, recorders have no body, nor its length.
  if (!hasFailed && (row.bodyBytes ?? 0) > 0) return undefined;
  return {
    severity: 'broken',
    claim: `${called(row)} returned ${row.status}, and CORS kept the response from the page: ${missing}`,
    detail: `The page of ${originOf(evidence) ?? 'another origin'} asked ${row.host}.`,
    evidence: [row.index],
    remedy: 'Have the server send Access-Control-Allow-Origin with the page’s origin, with errors and redirects too.',
    confidence: hasFailed ? 'certain' : 'strong',
  };
}

/** What a response lacks of leave (Fetch 4.10, CORS check). */
function whyUnreadable(
  { requestHeaders, responseHeaders }: Evidence,
  hasCredentials = requestHeaders.has('cookie'),
): string | undefined {
  const origin = requestHeaders.get('origin');
  const allowed = responseHeaders.get('access-control-allow-origin')?.trim();
  if (allowed === undefined) return 'it has no Access-Control-Allow-Origin';
  if (allowed === '*')
    return hasCredentials ? 'Access-Control-Allow-Origin is *, which does not cover cookies' : undefined;
  if (origin !== undefined && allowed !== origin) return `Access-Control-Allow-Origin is ${allowed.slice(0, 100)}`;
  const isAllowed = responseHeaders.get('access-control-allow-credentials')?.trim() === 'true';
  return hasCredentials && !isAllowed ? 'it lacks Access-Control-Allow-Credentials: true' : undefined;
}

/** A request by CORS: its mode says so; without one, a GET sends its origin only then (Fetch 3.2). */
function isAskedByCors({ method, url }: ExchangeRow, { requestHeaders }: Evidence): boolean {
  const origin = requestHeaders.get('origin');
  const mode = requestHeaders.get('sec-fetch-mode');
  if (requestHeaders.get('sec-fetch-site') === 'same-origin') return false;
  const own = splitUrl(url);
  const isOther = origin !== undefined && own !== undefined && origin !== own.origin;
  if (!isOther) return false;
  return mode === undefined ? method === 'GET' : mode === 'cors';
}

/** A call to another origin that failed without a word of why. */
function looksLikeIt(subject: Subject, row: ExchangeRow): boolean {
  const { failure } = row;
  const evidence = subject.evidenceOf(row.index);
  if (failure?.type !== 'no-response' || failure.reason !== 'unknown' || evidence === undefined) return false;
  if (row.kind === 'socket' || row.kind === 'preflight' || row.kind === 'document' || row.kind === 'report')
    return false;
  const site = evidence.requestHeaders.get('sec-fetch-site');
  const mode = evidence.requestHeaders.get('sec-fetch-mode');
  if (isAskedByCors(row, evidence)) return true;
  if (site !== undefined || mode !== undefined) return site !== 'same-origin' && mode === 'cors';
  // Of what failed, browsers record hardly a header: who asked tells the origin.
  return row.kind === 'data' && goesElsewhere(subject, row);
}

/** Whether the policy of the page's document does not list where a call goes. */
function isRefusedByPolicy(subject: Subject, row: ExchangeRow): boolean {
  const document = documentOf(subject, row);
  const policy =
    document === undefined
      ? undefined
      : subject.evidenceOf(document.index)?.responseHeaders.get('content-security-policy');
  if (document === undefined || policy === undefined || row.kind !== 'data') return false;
  return isAllowedByCsp(policy, 'connect-src', row.url, document.url) === false;
}

const originOf = (evidence: Evidence | undefined): string | undefined => evidence?.requestHeaders.get('origin');
