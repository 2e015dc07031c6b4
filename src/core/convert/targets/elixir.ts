import { base64Of } from '../../content';
import { byErlang, withErlangEncoding } from '../addresses';
import type { Variable } from '../draft';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf, sendsEmptyBody } from '../plan';
import type { ProxyParts } from '../proxy';
import { elixirString, quoteElixir as quote } from '../quoting/elixir';
import { type Target, unsupported } from '../target';
import { envOf, identOf, plainText, type Value } from '../value';
import { asFunction, rendered } from '../writing/finish';
import { isBinary, leftOutComments } from '../writing/lines';
import { httpProxyOf } from '../writing/proxy';
import { limitMs } from '../writing/time-limit';

/** Elixir takes a name that begins with a capital for a module. */
const nameOf = (variable: Variable): string =>
  identOf(variable)
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase();

const pieces = (one: Value) =>
  one.map((piece) => ('text' in piece ? { text: piece.text } : { code: nameOf(piece.variable) }));
/** A value as one string, variables interpolated. */
const value = (one: Value): string => elixirString(pieces(one));
/** The same in quotes, for a charlist. */
const quoted = (one: Value): string =>
  `"${pieces(one)
    .map((piece) => ('text' in piece ? quote(piece.text).slice(1, -1) : `#{${piece.code}}`))
    .join('')}"`;

/** The methods that :httpc knows; those that may have a body by it. */
const METHODS = /^(GET|HEAD|OPTIONS|TRACE|PUT|POST|PATCH|DELETE)$/;
const WITH_BODY = /^(PUT|POST|PATCH|DELETE)$/;

/** A text of an address as Erlang takes it; what stands before the path has nothing of that. */
const withEncoding = (address: Value): Value =>
  address.map((piece) => ('text' in piece ? { text: withErlangEncoding(piece.text) } : piece));

/** Lines up to this long stay whole, as Elixir's formatter has it. */
const LINE_CHARS = 98;

/** The body of a request that has none and yet says so. */
const EMPTY = '""';
/** The type of a payload that has none: :httpc wants one. */
const UNTYPED = 'application/octet-stream';

/** Elixir with the HTTP client that Erlang comes with. */
export const elixir = {
  id: 'elixir',
  label: 'Elixir, :httpc',
  language: 'Elixir',
  extension: 'exs',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byErlang,
      carriesCredentials: true,
      repeats: true,
      unicode: true,
      payloadWithGet: false,
      parts: false,
      addsType: UNTYPED,
      method: (method) =>
        METHODS.test(method)
          ? undefined
          : METHODS.test(method.toUpperCase())
            ? { method: method.toUpperCase(), why: ':httpc writes it in capitals' }
            : { method: 'GET', why: ':httpc has no such method, so GET is sent' },
    });
    const { timeLimitS, redirects, ignoresCertificate, prints } = plan.options;
    const proxy = httpProxyOf(plan);
    const isTls = /^https:/i.test(plainText(plan.address));
    const asked = bodyOf(plan);
    const body = WITH_BODY.test(plan.method) ? asked : undefined;
    if (asked !== undefined && body === undefined)
      plan.warnings.push(unsupported(`A payload with ${plan.method}`, 'the request goes without it'));
    const type = plan.headers.find(({ name }) => name.toLowerCase() === 'content-type');
    const headers = plan.headers.filter((header) => header !== type || body === undefined);
    const http = [
      ...(timeLimitS === undefined ? [] : [`timeout: ${limitMs(timeLimitS)}`]),
      ...(redirects === undefined ? [] : [`autoredirect: ${redirects === 'follow'}`]),
      ...(proxy?.credentials === undefined
        ? []
        : [`proxy_auth: {~c${quote(proxy.credentials.user)}, ~c${quote(proxy.credentials.password)}}`]),
      ...(isTls ? [`ssl: ${ignoresCertificate ? '[verify: :verify_none]' : 'tls'}`] : []),
    ];
    const entries = headers.map((header) => tuple(`~c${quote(header.name)}`, value(header.value)));
    const comments = leftOutComments(plan, '#', quote, '  ');
    const request = [
      'url',
      'headers',
      ...(body === undefined
        ? []
        : [`~c${quoted(type?.value ?? (body === EMPTY ? [] : [{ text: UNTYPED }]))}`, 'payload']),
    ];
    const lines = [
      ...plan.variables.flatMap((variable) =>
        assigned(
          nameOf(variable),
          variable.isSecret ? `System.fetch_env!(${quote(envOf(variable))})` : quote(variable.value),
        ),
      ),
      ...(proxy === undefined ? [] : proxyLines(proxy)),
      ...assigned('url', value(withEncoding(plan.address))),
      ...(entries.length + comments.length === 0
        ? ['headers = []']
        : ['', 'headers = [', ...separated(entries), ...comments, ']', '']),
      ...(body === undefined ? [] : assigned('payload', body)),
      ...(isTls && !ignoresCertificate ? TLS : []),
      `request = {${request.join(', ')}}`,
      ...(http.length === 0 ? [] : [`options = [${http.join(', ')}]`]),
      '',
      ...assigned(
        '{:ok, {{_, status, reason}, _, body}}',
        `:httpc.request(:${plan.method.toLowerCase()}, request, ${http.length === 0 ? '[]' : 'options'}, body_format: :binary)`,
      ),
      '',
      ...(prints === 'status'
        ? ['IO.puts("#{status} #{reason}")']
        : [
            'if status >= 400, do: raise("#{status} #{reason}: #{body}")',
            isBinary(plan) ? 'File.write!("response", body)' : 'IO.puts(body)',
          ]),
    ];
    const framed = asFunction(plan, lines, {
      open: ['send_request = fn ->'],
      indent: '  ',
      close: ['end'],
      call: ['send_request.()'],
    });
    const text = [':inets.start()', ...(isTls ? [':ssl.start()'] : []), '', ...framed];
    return rendered(
      plan,
      text.filter((line, at) => line !== '' || text[at - 1] !== ''),
    );
  },
} satisfies Target;

const TLS = [
  '',
  'tls = [',
  '  verify: :verify_peer,',
  '  cacerts: :public_key.cacerts_get(),',
  '  customize_hostname_check: [match_fun: :public_key.pkix_verify_hostname_match_fun(:https)]',
  ']',
  '',
];

function proxyLines({ host, port }: ProxyParts): string[] {
  const parts = `{{~c${quote(host)}, ${port}}, []}`;
  return [`:httpc.set_options(proxy: ${parts}, https_proxy: ${parts})`];
}

/** An assignment; what is too long for its line stands on the next one, between empty lines. */
function assigned(name: string, expression: string): string[] {
  const line = `${name} = ${expression}`;
  if (line.length <= LINE_CHARS) return [line];
  const [, call, argument] = /^([A-Z][\w.]*!?\()(".*")\)$/s.exec(expression) ?? [];
  return call === undefined || expression.length + 2 <= LINE_CHARS
    ? ['', `${name} =`, `  ${expression}`, '']
    : ['', `${name} =`, `  ${call}`, `    ${argument}`, '  )', ''];
}

const tuple = (name: string, one: string): string =>
  `  {${name}, ${one}}`.length < LINE_CHARS ? `  {${name}, ${one}}` : `  {${name},\n   ${one}}`;

const separated = (entries: readonly string[]): string[] =>
  entries.map((entry, at) => (at === entries.length - 1 ? entry : `${entry},`));

function bodyOf({ body, method }: Plan<FlatBody>): string | undefined {
  switch (body.type) {
    case 'none':
      return sendsEmptyBody(method) ? EMPTY : undefined;
    case 'text':
      return value(body.value);
    case 'bytes':
      return `Base.decode64!("${base64Of(body.bytes)}")`;
    case 'file':
      return `File.read!(${quote(body.path)})`;
    default:
      return body satisfies never;
  }
}
