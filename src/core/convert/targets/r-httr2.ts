import { base64Of, bytesFromText } from '../../content';
import { sentAsIs } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf, sendsEmptyBody } from '../plan';
import { chunksOf } from '../quoting/chunks';
import { quoteR as quote } from '../quoting/r';
import type { Target } from '../target';
import { envOf, identOf, plainText, type Value } from '../value';
import { asFunction, rendered } from '../writing/finish';
import { isBinary, leftOutComments } from '../writing/lines';

/** A string with escapes in it may be 10,000 characters long. */
const LITERAL_CHARS = 2000;
const value = (one: Value): string => {
  const pieces = one.flatMap((piece) =>
    'text' in piece ? chunksOf(piece.text, LITERAL_CHARS).map(quote) : [identOf(piece.variable)],
  );
  return pieces.length === 0 ? '""' : pieces.length === 1 ? (pieces[0] ?? '') : `paste0(${pieces.join(', ')})`;
};

/** R's httr2. */
export const rHttr2 = {
  id: 'r-httr2',
  label: 'R, httr2',
  language: 'R',
  extension: 'R',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: sentAsIs,
      carriesCredentials: true,
      repeats: false,
      unicode: true,
      payloadWithGet: true,
      parts: false,
      empties: false,
      method: (method) =>
        method === method.toUpperCase()
          ? undefined
          : { method: method.toUpperCase(), why: 'httr2 writes it in capitals' },
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    const type = plan.headers.find(({ name }) => name.toLowerCase() === 'content-type');
    const headers = plan.headers.filter((header) => header !== type || plan.body.type === 'none');
    const body = bodyOf(plan);
    const curl = [
      ...(plan.isPlainAddress ? [] : ['path_as_is = TRUE']),
      ...(redirects === undefined ? [] : [`followlocation = ${redirects === 'follow' ? 'TRUE' : 'FALSE'}`]),
      ...(ignoresCertificate ? ['ssl_verifypeer = FALSE', 'ssl_verifyhost = FALSE'] : []),
    ];
    const named = headers.map((header) => `${quote(header.name)} = ${value(header.value)}`);
    const steps = [
      `request(${value(plan.address)})`,
      ...(plan.method === 'GET' && body === undefined ? [] : [`req_method(${quote(plan.method)})`]),
      ...(headers.length === 0
        ? []
        : options.headers === 'calls'
          ? named.map((line) => `req_headers(${line})`)
          : [`req_headers(\n${named.map((line) => `    ${line}`).join(',\n')}\n  )`]),
      ...(body === undefined
        ? []
        : [`req_body_raw(${body}${type === undefined ? '' : `, type = ${value(type.value)}`})`]),
      ...(curl.length === 0 ? [] : [`req_options(${curl.join(', ')})`]),
      ...(timeLimitS === undefined ? [] : [`req_timeout(${timeLimitS})`]),
      ...(proxy === undefined ? [] : [`req_proxy(${quote(proxy)})`]),
      ...(prints === 'status' ? ['req_error(is_error = function(response) FALSE)'] : []),
      `req_perform(${isBinary(plan) ? 'path = "response"' : ''})`,
    ];
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `${identOf(variable)} <- ${variable.isSecret ? `Sys.getenv(${quote(envOf(variable))})` : quote(variable.value)}`,
      ),
      ...leftOutComments(plan, '#', quote),
      `response <- ${steps.join(' |>\n  ')}`,
      ...(prints === 'status'
        ? ['print(resp_status(response))']
        : isBinary(plan)
          ? []
          : plan.method === 'HEAD'
            ? ['print(resp_headers(response))']
            : [plan.answer === 'json' ? 'str(resp_body_json(response))' : 'cat(resp_body_string(response))']),
    ];
    const flat = lines.flatMap((line) => line.split('\n'));
    const text = [
      'library(httr2)',
      '',
      ...asFunction(plan, flat, { open: ['send <- function() {'], indent: '  ', close: ['}'], call: ['send()'] }),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const decoded = (bytes: Uint8Array): string => `openssl::base64_decode("${base64Of(bytes)}")`;

function bodyOf({ body, method }: Plan<FlatBody>): string | undefined {
  switch (body.type) {
    case 'none':
      return sendsEmptyBody(method) ? 'raw(0)' : undefined;
    case 'text':
      // No string of R holds a NUL.
      if (plainText(body.value).includes('\0')) return decoded(bytesFromText(plainText(body.value)));
      return `charToRaw(enc2utf8(${value(body.value)}))`;
    case 'bytes':
      return decoded(body.bytes);
    case 'file':
      return `readBin(${quote(body.path)}, "raw", file.size(${quote(body.path)}))`;
    default:
      return body satisfies never;
  }
}
