import { groupBy } from '../../collections';
import { sentAsIs } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type Plan, planOf, sendsEmptyBody } from '../plan';
import { quoteJavaScript as quote } from '../quoting/javascript';
import { type Target, unsupported } from '../target';
import { plainText, splitUrlValue, targetOf } from '../value';
import { fileImports, jsBody, jsFunction, jsHeader, jsHeaderLines, jsValue, jsVariables } from '../writing/js';
import { limitMs } from '../writing/time-limit';

/** Node's own http and https modules: nothing is added to what the draft says. */
export const nodeHttp = {
  id: 'node-http',
  label: 'Node, http module',
  language: 'JavaScript',
  extension: 'mjs',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: sentAsIs,
      repeats: true,
      unicode: true,
      payloadWithGet: true,
      parts: false,
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    if (proxy !== undefined) plan.warnings.push(unsupported('A proxy', 'it needs an agent of a package'));
    if (redirects === 'follow')
      plan.warnings.push(unsupported('Following redirects', 'the response that names the next URL is printed'));
    const module = /^https:/i.test(plainText(plan.address)) ? 'https' : 'http';
    const split = splitUrlValue(plan.address);
    const body = jsBody(plan.body, 'node', '');
    const isText = plan.body.type === 'text';
    // Node writes a head together with a payload that is text in the payload's encoding, which such values are not in.
    const hasBytes = plan.headers.some(({ value }) => /[^\0-\x7f]/.test(plainText(value)));
    const repeats = new Set(plan.headers.map(({ name }) => name.toLowerCase())).size < plan.headers.length;
    const exact = plan.isPlainAddress ? [] : [`  path: ${jsValue(targetOf(split))},`];
    // Node writes a payload in chunks unless its length is known.
    const hasLength = body !== undefined || sendsEmptyBody(plan.method);
    const length = hasLength
      ? [
          `    'Content-Length': ${body === undefined ? '0' : isText ? 'Buffer.byteLength(payload)' : 'payload.length'},`,
        ]
      : [];
    const entries = repeats ? repeatedHeaders(plan) : jsHeaderLines(plan, '    ');
    const headerLines = entries.length + length.length === 0 ? [] : ['  headers: {', ...entries, ...length, '  },'];
    const lines = [
      ...jsVariables(plan.variables, 'node'),
      ...(body === undefined ? [] : [`const payload = ${body.expression};`]),
      `const outgoing = ${module}.request(${jsValue(plan.isPlainAddress ? plan.address : split.origin)}, {`,
      `  method: ${quote(plan.method)},`,
      ...exact,
      ...headerLines,
      ...(timeLimitS === undefined ? [] : [`  signal: AbortSignal.timeout(${limitMs(timeLimitS)}),`]),
      ...(ignoresCertificate ? ['  rejectUnauthorized: false,'] : []),
      '});',
      // Node writes a method in capitals where it is given; assigned, it stays as it is.
      ...(plan.method === plan.method.toUpperCase() ? [] : [`outgoing.method = ${quote(plan.method)};`]),
      body === undefined
        ? 'outgoing.end();'
        : `outgoing.end(${isText && hasBytes ? 'Buffer.from(payload)' : 'payload'});`,
      'const [response] = await once(outgoing, ' + "'response');",
      ...(prints === 'status'
        ? ['console.log(response.statusCode, response.statusMessage);', 'response.resume();']
        : [
            'const body = await buffer(response);',
            'if (response.statusCode >= 400) throw new Error(`${response.statusCode}: ${body}`);',
            prints === 'file' || plan.answer === 'binary'
              ? `await writeFile('response', body);`
              : plan.answer === 'json'
                ? 'console.log(JSON.parse(body.toString()));'
                : 'console.log(body.toString());',
          ]),
    ];
    const imports = [
      `import { once } from 'node:events';`,
      ...fileImports(plan),
      `import ${module} from 'node:${module}';`,
      ...(prints === 'status' ? [] : [`import { buffer } from 'node:stream/consumers';`]),
    ];
    return { text: `${[...imports, '', ...jsFunction(plan, lines)].join('\n')}\n`, warnings: plan.warnings };
  },
} satisfies Target;

/** Headers of one name are one list of values to Node; they go out one by one. */
function repeatedHeaders(plan: Plan): string[] {
  return [...groupBy(plan.headers, ({ name }) => name.toLowerCase()).values()].map((alike) => {
    const values = alike.map(({ value }) => jsHeader(value));
    return `    ${quote(alike[0].name)}: ${values.length === 1 ? values[0] : `[${values.join(', ')}]`},`;
  });
}
