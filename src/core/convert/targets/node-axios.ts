import { byUrlStandard } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { bodyText, type Plan, planOf } from '../plan';
import type { ProxyParts } from '../proxy';
import { quoteJavaScript as quote } from '../quoting/javascript';
import type { Target } from '../target';
import { plainText } from '../value';
import {
  callsOfHeaders,
  fileImports,
  fitsFormData,
  jsBody,
  jsFunction,
  jsObject,
  jsValue,
  jsVariables,
  mapOfHeaders,
} from '../writing/js';
import { httpProxyOf } from '../writing/proxy';
import { limitMs } from '../writing/time-limit';

/** axios on Node. */
export const nodeAxios = {
  id: 'node-axios',
  label: 'Node, axios',
  language: 'JavaScript',
  extension: 'mjs',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUrlStandard,
      repeats: false,
      unicode: true,
      payloadWithGet: true,
      parts: true,
      takesParts: fitsFormData,
      refuses: (name) => (name in Object.prototype ? 'axios takes it for a member of every object' : undefined),
      method: (method) =>
        method === method.toUpperCase()
          ? undefined
          : { method: method.toUpperCase(), why: 'axios writes it in capitals' },
    });
    const { timeLimitS, redirects, ignoresCertificate, prints } = plan.options;
    const proxy = httpProxyOf(plan);
    const body = axiosBody(plan);
    const isMap = options.headers === 'map';
    const headersByCall = plan.headers.length > 0 || addsOwnType(plan);
    const address = jsValue(plan.address);
    const members = [
      `  url: ${address},`,
      ...(plan.method === 'GET' ? [] : [`  method: ${quote(plan.method)},`]),
      ...(isMap ? withoutOwnType(plan, mapOfHeaders(plan, '  ')) : headersByCall ? ['  headers,'] : []),
      ...(body === undefined ? [] : [`  data: ${body.expression},`]),
      ...(timeLimitS === undefined ? [] : [`  timeout: ${limitMs(timeLimitS)},`]),
      ...(redirects === 'stop' ? ['  maxRedirects: 0,'] : []),
      // It throws what is no success: a status that is asked for is given, whatever it is.
      ...(prints === 'status'
        ? ['  validateStatus: () => true,']
        : redirects === 'stop'
          ? ['  validateStatus: (status) => status < 400,']
          : []),
      ...(proxy === undefined ? [] : proxyMember(proxy)),
      ...(ignoresCertificate ? ['  httpsAgent: new Agent({ rejectUnauthorized: false }),'] : []),
      ...(prints === 'file' || plan.answer === 'binary' ? [`  responseType: 'arraybuffer',`] : []),
    ];
    const lines = [
      ...jsVariables(plan.variables, 'node'),
      ...(isMap || !headersByCall
        ? []
        : [
            'const headers = new AxiosHeaders();',
            ...callsOfHeaders(plan.headers, 'headers.set'),
            ...(addsOwnType(plan) ? ["headers.set('Content-Type', false);"] : []),
          ]),
      ...(body?.lines ?? []),
      'const response = await axios({',
      ...members,
      '});',
      ...(prints === 'status'
        ? ['console.log(response.status, response.statusText);']
        : prints === 'file' || plan.answer === 'binary'
          ? [`await writeFile('response', response.data);`]
          : ['console.log(response.data);']),
    ];
    const imports = [
      ...fileImports(plan),
      ...(ignoresCertificate ? [`import { Agent } from 'node:https';`] : []),
      isMap ? `import axios from 'axios';` : `import axios, { AxiosHeaders } from 'axios';`,
    ];
    return { text: `${[...imports, '', ...jsFunction(plan, lines)].join('\n')}\n`, warnings: plan.warnings };
  },
} satisfies Target;

/** axios gives what has no type one of its own, also where there is no payload, unless it is told not to. */
const addsOwnType = ({ contentType, body, method }: Plan): boolean =>
  contentType === undefined && body.type !== 'parts' && (body.type !== 'none' || /^(POST|PUT|PATCH)$/.test(method));

function withoutOwnType(plan: Plan, lines: string[]): string[] {
  if (!addsOwnType(plan)) return lines;
  const none = "    'Content-Type': false,";
  return lines.length === 0 ? ['  headers: {', none, '  },'] : [...lines.slice(0, -1), none, ...lines.slice(-1)];
}

/** axios makes JSON of objects, trims texts, and leaves bytes alone. */
function axiosBody(plan: Plan): ReturnType<typeof jsBody> {
  const isJson = /json/i.test(plainText(plan.contentType ?? []));
  const object = isJson ? jsObject(bodyText(plan.body), '  ') : undefined;
  if (object !== undefined) return { lines: [], expression: object };
  const body = jsBody(plan.body, 'node', '  ');
  return plan.body.type === 'text' && body !== undefined
    ? { lines: [], expression: `Buffer.from(${body.expression})` }
    : body;
}

function proxyMember({ scheme, host, port, credentials }: ProxyParts): string[] {
  const place = `protocol: ${quote(scheme)}, host: ${quote(host)}, port: ${port}`;
  if (credentials === undefined) return [`  proxy: { ${place} },`];
  const { user, password } = credentials;
  return [
    '  proxy: {',
    `    ${place},`,
    `    auth: { username: ${quote(user)}, password: ${quote(password)} },`,
    '  },',
  ];
}
