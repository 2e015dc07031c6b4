import { base64Of } from '../../content';
import { sentAsIs } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type Plan, planOf, sendsEmptyBody } from '../plan';
import { quoteRuby as quote } from '../quoting/ruby';
import type { Target } from '../target';
import { envOf, identOf, joinTexts, splitUrlValue, targetOf, type Value, writeValue } from '../value';
import { asFunction, rendered } from '../writing/finish';
import { isBinary, leftOutComments, partContent } from '../writing/lines';
import { httpProxyOf } from '../writing/proxy';

/** Ruby takes a name in capitals for a constant. */
const nameOf = (variable: Parameters<typeof identOf>[0]): string =>
  identOf(variable)
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase();
const value = (one: Value): string => writeValue(one, quote, nameOf);
const OWN_CLASSES: Readonly<Record<string, string>> = {
  GET: 'Get',
  POST: 'Post',
  PUT: 'Put',
  PATCH: 'Patch',
  DELETE: 'Delete',
  HEAD: 'Head',
  OPTIONS: 'Options',
};

/** What it sends once more, and may change something. */
const RETRIED = /^(?:PUT|DELETE)$/;

/** Ruby's net/http. */
export const ruby = {
  id: 'ruby',
  label: 'Ruby, net/http',
  language: 'Ruby',
  extension: 'rb',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: sentAsIs,
      repeats: false,
      unicode: true,
      givesUp: { afterS: 60, on: 'wait' },
      payloadWithGet: true,
      parts: true,
      // set_form gives a file without a type one of its own.
      takesParts: (parts) =>
        parts.every(({ fileName, contentType }) => fileName === undefined || contentType !== undefined),
      addsType: 'application/x-www-form-urlencoded',
    });
    const { timeLimitS, redirects, ignoresCertificate, prints } = plan.options;
    const proxy = httpProxyOf(plan);
    if (redirects === 'follow')
      plan.warnings.push('net/http does not follow redirects: send a request to the Location of the response.');
    // A class whose requests may have a body gives one without a body a type.
    const hasBody = plan.body.type !== 'none';
    const isGeneric = !hasBody && sendsEmptyBody(plan.method);
    const own = isGeneric ? undefined : OWN_CLASSES[plan.method];
    const split = splitUrlValue(plan.address);
    const target = plan.isPlainAddress ? 'uri' : value(targetOf(split));
    const create =
      own === undefined
        ? `Net::HTTPGenericRequest.new(${quote(plan.method)}, ${hasBody}, true, ${plan.isPlainAddress ? 'uri.request_uri' : target})`
        : `Net::HTTP::${own}.new(${target})`;
    const http = [
      `use_ssl: uri.scheme == 'https'`,
      // It would send what it takes for idempotent once more, where no answer comes.
      ...(timeLimitS !== undefined || RETRIED.test(plan.method) ? ['max_retries: 0'] : []),
      ...(timeLimitS === undefined ? [] : [`open_timeout: ${timeLimitS}`, `read_timeout: ${timeLimitS}`]),
      ...(ignoresCertificate ? ['verify_mode: OpenSSL::SSL::VERIFY_NONE'] : []),
    ];
    const credentials = proxy?.credentials;
    const proxyArgs =
      proxy === undefined
        ? ''
        : [
            '',
            quote(proxy.host),
            proxy.port,
            ...(credentials === undefined ? [] : [quote(credentials.user), quote(credentials.password)]),
          ].join(', ');
    const { lines: bodyLines, needs } = bodyOf(plan);
    const isMap = options.headers === 'map' && plan.headers.length > 0;
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `${nameOf(variable)} = ${variable.isSecret ? `ENV.fetch(${quote(envOf(variable))})` : quote(variable.value)}`,
      ),
      `uri = URI(${plan.isPlainAddress ? value(plan.address) : value(joinTexts([...split.origin, { text: '/' }]))})`,
      `request = ${create}`,
      ...(isMap
        ? [
            'headers = {',
            ...plan.headers.map((header) => `  ${quote(header.name)} => ${value(header.value)},`),
            ...leftOutComments(plan, '#', quote, '  '),
            '}',
            'headers.each { |name, value| request[name] = value }',
          ]
        : [
            ...plan.headers.map((header) => `request[${quote(header.name)}] = ${value(header.value)}`),
            ...leftOutComments(plan, '#', quote),
          ]),
      ...bodyLines,
      '',
      `response = Net::HTTP.start(uri.hostname, uri.port${proxyArgs}, ${http.join(', ')}) do |http|`,
      '  http.request(request)',
      'end',
      ...(prints === 'status'
        ? ['puts response.code']
        : [
            'raise "#{response.code} #{response.message}: #{response.body}" if response.code.to_i >= 400',
            '',
            isBinary(plan)
              ? `File.binwrite('response', response.body)`
              : plan.answer === 'json'
                ? 'puts JSON.pretty_generate(JSON.parse(response.body))'
                : 'puts response.body',
          ]),
    ];
    const requires = ['net/http', ...needs, ...(plan.answer === 'json' && prints === 'body' ? ['json'] : [])];
    const text = [
      ...requires.sort().map((name) => `require '${name}'`),
      '',
      ...asFunction(plan, lines, {
        open: ['def send_request'],
        indent: '  ',
        close: ['end'],
        call: ['send_request'],
      }),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

function bodyOf({ body, method }: Plan): { readonly lines: string[]; readonly needs: string[] } {
  switch (body.type) {
    case 'none':
      return { lines: sendsEmptyBody(method) ? ["request['Content-Length'] = '0'"] : [], needs: [] };
    case 'text':
      return { lines: [`request.body = ${value(body.value)}`], needs: [] };
    case 'bytes':
      return { lines: [`request.body = '${base64Of(body.bytes)}'.unpack1('m')`], needs: [] };
    case 'file':
      return { lines: [`request.body = File.binread(${quote(body.path)})`], needs: [] };
    case 'parts': {
      const parts = body.parts.map((part) => {
        const { text, base64 } = partContent(part);
        const content =
          text !== undefined ? quote(text) : base64 !== undefined ? `'${base64}'.unpack1('m')` : undefined;
        if (part.fileName === undefined && part.contentType === undefined)
          return `    [${quote(part.name)}, ${content}],`;
        const io =
          content === undefined ? `File.open(${quote(part.fileName ?? part.name)}, 'rb')` : `StringIO.new(${content})`;
        const more = [
          ...(part.fileName === undefined ? [] : [`filename: ${quote(part.fileName)}`]),
          ...(part.contentType === undefined ? [] : [`content_type: ${quote(part.contentType)}`]),
        ];
        return `    [${quote(part.name)}, ${io}, { ${more.join(', ')} }],`;
      });
      const needs = body.parts.some(
        ({ fileName, contentType, bytes }) => bytes !== undefined && (fileName ?? contentType) !== undefined,
      )
        ? ['stringio']
        : [];
      return { lines: ['request.set_form(', '  [', ...parts, '  ],', "  'multipart/form-data'", ')'], needs };
    }
    default:
      return body satisfies never;
  }
}
