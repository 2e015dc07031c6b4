import { byBrowser, byUrlStandardWhole } from '../addresses';
import type { Draft } from '../draft';
import { DEFAULT_OPTIONS } from '../options';
import { type Abilities, type Plan, planOf } from '../plan';
import { quoteJavaScript as quote } from '../quoting/javascript';
import { type Target, unsupported } from '../target';
import {
  callsOfHeaders,
  fetchAnswer,
  fitsFormData,
  isForm,
  jsBody,
  jsFunction,
  jsValue,
  jsVariables,
  mapOfHeaders,
} from '../writing/js';
import { limitMs } from '../writing/time-limit';

/** Headers that pages may not set (Fetch standard, forbidden request-header). */
const FORBIDDEN =
  /^(accept-charset|accept-encoding|access-control-request-.*|connection|content-length|cookie2?|date|dnt|expect|host|keep-alive|origin|set-cookie|te|trailer|transfer-encoding|upgrade|via|proxy-.*|sec-.*)$/;

/** Engines keep headers in an object, where this name is none. */
export const LOST = 'fetch loses a header of this name';

export const FETCH_ABILITIES: Abilities = {
  address: byUrlStandardWhole,
  repeats: false,
  unicode: true,
  payloadWithGet: false,
  parts: true,
  takesParts: fitsFormData,
  addsType: 'text/plain;charset=UTF-8',
  method: (method) =>
    /^(CONNECT|TRACE|TRACK)$/i.test(method)
      ? { method: 'GET', why: 'fetch refuses it, and GET is sent' }
      : /^(get|head|post|put|delete|options)$/i.test(method) && method !== method.toUpperCase()
        ? { method: method.toUpperCase(), why: 'fetch writes it in capitals' }
        : undefined,
};

/** What a page can send, by fetch or otherwise. */
export const PAGE_ABILITIES: Abilities = {
  ...FETCH_ABILITIES,
  address: byBrowser,
  refuses: (name) => {
    if (name === '__proto__') return LOST;
    if (name === 'cookie') return 'pages send the cookies that the browser has for the host';
    if (name === 'referer') return undefined;
    return FORBIDDEN.test(name) ? 'pages may not set it, and the browser sends its own' : undefined;
  },
};

/** fetch, to be run in a page. */
export const jsFetch = {
  id: 'js-fetch',
  label: 'fetch, in a page',
  language: 'JavaScript',
  extension: 'js',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, PAGE_ABILITIES);
    const { timeLimitS, redirects } = plan.options;
    const { shown, referer, sendsCookies } = pageHeaders(plan, draft);
    if (referer !== undefined)
      plan.warnings.push('A page may name a Referer of its own site alone; elsewhere its own address is sent.');
    const body = jsBody(plan.body, 'browser', '  ', isForm(plan));
    const isMap = options.headers === 'map';
    const members = [
      ...(plan.method === 'GET' ? [] : [`  method: ${quote(plan.method)},`]),
      ...(isMap ? mapOfHeaders(shown, '  ') : shown.headers.length > 0 ? ['  headers,'] : []),
      ...(referer === undefined ? [] : [`  referrer: ${jsValue(referer.value)},`, `  referrerPolicy: 'unsafe-url',`]),
      ...(body === undefined ? [] : [`  body: ${body.expression},`]),
      ...(sendsCookies ? [`  credentials: 'include',`] : []),
      ...(redirects === undefined ? [] : [`  redirect: '${redirects === 'stop' ? 'manual' : 'follow'}',`]),
      ...(timeLimitS === undefined ? [] : [`  signal: AbortSignal.timeout(${limitMs(timeLimitS)}),`]),
    ];
    if (redirects === 'stop')
      plan.warnings.push('Of a redirect that it stops at a page is told neither status nor headers nor body.');
    const address = jsValue(plan.address);
    const lines = [
      ...jsVariables(plan.variables, 'browser'),
      ...(isMap || shown.headers.length === 0
        ? []
        : ['const headers = new Headers();', ...callsOfHeaders(shown.headers, 'headers.append')]),
      ...(body?.lines ?? []),
      ...(members.length === 0
        ? [`const response = await fetch(${address});`]
        : [`const response = await fetch(${address}, {`, ...members, '});']),
      ...fetchAnswer(plan, 'browser'),
    ];
    return { text: `${jsFunction(plan, lines).join('\n')}\n`, warnings: plan.warnings };
  },
} satisfies Target;

/**
 * The headers that a page sets, what it names as its referrer, and whether its cookies go along. What browsers decide by
 * themselves is warned of.
 */
export function pageHeaders(plan: Plan, draft: Draft) {
  const { proxy, ignoresCertificate } = plan.options;
  if (proxy !== undefined) plan.warnings.push(unsupported('A proxy', 'the browser uses its own settings'));
  if (ignoresCertificate)
    plan.warnings.push(unsupported('Leave to take any certificate', 'the browser asks for it itself'));
  if (plan.headers.some(({ name }) => name.toLowerCase() === 'user-agent')) {
    plan.warnings.push('Some browsers send a User-Agent of their own, whatever the page says.');
  }
  const referer = plan.headers.find(({ name }) => name.toLowerCase() === 'referer');
  return {
    shown: { ...plan, headers: plan.headers.filter((header) => header !== referer) },
    referer,
    sendsCookies: draft.headers.some(({ name, kept }) => kept && name.toLowerCase() === 'cookie'),
  };
}
