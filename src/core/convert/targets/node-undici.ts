import { byUrlStandard } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { planOf } from '../plan';
import { quoteJavaScript as quote } from '../quoting/javascript';
import type { Target } from '../target';
import {
  fileImports,
  fitsFormData,
  jsBody,
  jsFunction,
  jsHeader,
  jsValue,
  jsVariables,
  mapOfHeaders,
} from '../writing/js';
import { limitMs } from '../writing/time-limit';

/** undici's request, which sends an address as it stands. */
export const nodeUndici = {
  id: 'node-undici',
  label: 'Node, undici',
  language: 'JavaScript',
  extension: 'mjs',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUrlStandard,
      repeats: true,
      unicode: true,
      givesUp: { afterS: 300, on: 'wait' },
      payloadWithGet: true,
      parts: true,
      takesParts: fitsFormData,
      refuses: (name) => (name === 'expect' ? 'undici does not wait for 100 Continue' : undefined),
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    const body = jsBody(plan.body, 'node', '  ');
    const repeats = new Set(plan.headers.map(({ name }) => name.toLowerCase())).size < plan.headers.length;
    const isMap = options.headers === 'map' && !repeats;
    const agent = [
      ...(proxy === undefined ? [] : [`uri: ${quote(proxy)}`]),
      ...(ignoresCertificate
        ? [`${proxy === undefined ? 'connect' : 'requestTls'}: { rejectUnauthorized: false }`]
        : []),
    ];
    const agentClass = proxy === undefined ? 'Agent' : 'ProxyAgent';
    const dispatcher =
      agent.length === 0
        ? redirects === 'follow'
          ? ['dispatcher: new Agent().compose(interceptors.redirect({ maxRedirections: 10 }))']
          : []
        : [
            `dispatcher: new ${agentClass}({ ${agent.join(', ')} })${redirects === 'follow' ? '.compose(interceptors.redirect({ maxRedirections: 10 }))' : ''}`,
          ];
    const names = [
      ...(agent.length > 0 || redirects === 'follow' ? [agent.length > 0 ? agentClass : 'Agent'] : []),
      ...(plan.body.type === 'parts' ? ['FormData'] : []),
      ...(redirects === 'follow' ? ['interceptors'] : []),
      'request',
    ];
    const members = [
      ...(plan.method === 'GET' && body === undefined ? [] : [`  method: ${quote(plan.method)},`]),
      ...(isMap
        ? mapOfHeaders(plan, '  ')
        : [
            '  headers: [',
            ...plan.headers.map(({ name, value }) => `    ${quote(name)}, ${jsHeader(value)},`),
            '  ],',
          ]),
      ...(body === undefined ? [] : [`  body: ${body.expression},`]),
      ...(timeLimitS === undefined ? [] : [`  signal: AbortSignal.timeout(${limitMs(timeLimitS)}),`]),
      ...dispatcher.map((line) => `  ${line},`),
    ];
    const address = jsValue(plan.address);
    const lines = [
      ...jsVariables(plan.variables, 'node'),
      ...(body?.lines ?? []),
      ...(members.length === 0
        ? [`const response = await request(${address});`]
        : [`const response = await request(${address}, {`, ...members, '});']),
      ...(prints === 'status'
        ? ['console.log(response.statusCode);']
        : [
            'if (response.statusCode >= 400) throw new Error(`${response.statusCode}: ${await response.body.text()}`);',
            prints === 'file' || plan.answer === 'binary'
              ? `await writeFile('response', Buffer.from(await response.body.arrayBuffer()));`
              : `console.log(await response.body.${plan.answer === 'json' ? 'json' : 'text'}());`,
          ]),
    ];
    const imports = [...fileImports(plan), `import { ${names.join(', ')} } from 'undici';`];
    return { text: `${[...imports, '', ...jsFunction(plan, lines, 'send')].join('\n')}\n`, warnings: plan.warnings };
  },
} satisfies Target;
