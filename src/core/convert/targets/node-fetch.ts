import { byUrlStandard } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type Abilities, type Plan, planOf } from '../plan';
import { quoteJavaScript as quote } from '../quoting/javascript';
import { type Target, unsupported } from '../target';
import { rendered } from '../writing/finish';
import {
  callsOfHeaders,
  fetchAnswer,
  fileImports,
  isForm,
  jsBody,
  jsFunction,
  jsValue,
  jsVariables,
  mapOfHeaders,
} from '../writing/js';
import { limitMs } from '../writing/time-limit';
import { FETCH_ABILITIES, LOST } from './js-fetch';

export const NODE_FETCH_ABILITIES: Abilities = {
  ...FETCH_ABILITIES,
  older: { by: 'in Node before 24', address: byUrlStandard },
  givesUp: { afterS: 300, on: 'wait' },
  refuses: (name, value) =>
    name === 'host'
      ? 'fetch sends the host of the URL'
      : name === '__proto__'
        ? LOST
        : name === 'sec-fetch-mode' && value !== 'cors'
          ? 'fetch sends cors'
          : undefined,
};

/** The fetch that is built into Node, as a script. */
export const nodeFetch = {
  id: 'node-fetch',
  label: 'Node, fetch',
  language: 'JavaScript',
  extension: 'mjs',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, NODE_FETCH_ABILITIES);
    const lines = [...nodePrelude(plan), ...fetchStatement(plan), ...fetchAnswer(plan, 'node')];
    const imports = fileImports(plan);
    return rendered(plan, [...imports, ...(imports.length > 0 ? [''] : []), ...jsFunction(plan, lines)]);
  },
} satisfies Target;

/** What stands before the first request: leave to take any certificate, and the variables. */
export function nodePrelude({ options, warnings, variables }: Plan, own = variables): string[] {
  if (options.proxy !== undefined) {
    warnings.push(unsupported('A proxy', 'start Node 24 with --use-env-proxy and HTTPS_PROXY set'));
  }
  return [
    ...(options.ignoresCertificate ? [`process.env.NODE_TLS_REJECT_UNAUTHORIZED = '0';`] : []),
    ...jsVariables(own, 'node'),
  ];
}

/**
 * The statements that send a request.
 * @param into what its answer is left in
 */
export function fetchStatement(plan: Plan, into = 'const response'): string[] {
  const { timeLimitS, redirects, headers } = plan.options;
  const body = jsBody(plan.body, 'node', '  ', isForm(plan));
  const isMap = headers === 'map';
  const members = [
    ...(plan.method === 'GET' ? [] : [`  method: ${quote(plan.method)},`]),
    ...(isMap ? mapOfHeaders(plan, '  ') : plan.headers.length > 0 ? ['  headers,'] : []),
    ...(body === undefined ? [] : [`  body: ${body.expression},`]),
    ...(redirects === undefined ? [] : [`  redirect: '${redirects === 'stop' ? 'manual' : 'follow'}',`]),
    ...(timeLimitS === undefined ? [] : [`  signal: AbortSignal.timeout(${limitMs(timeLimitS)}),`]),
  ];
  const address = jsValue(plan.address);
  return [
    ...(isMap || plan.headers.length === 0
      ? []
      : ['const headers = new Headers();', ...callsOfHeaders(plan.headers, 'headers.append')]),
    ...(body?.lines ?? []),
    ...(members.length === 0
      ? [`${into} = await fetch(${address});`]
      : [`${into} = await fetch(${address}, {`, ...members, '});']),
  ];
}
