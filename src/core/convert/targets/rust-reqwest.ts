import { byUrlStandard } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf } from '../plan';
import { quoteRust as quote, quoteRustRaw } from '../quoting/rust';
import type { Target } from '../target';
import { envOf, fixedText, identOf, type Value } from '../value';
import { rendered, writeBody } from '../writing/finish';
import { indentAll } from '../writing/indent';
import { isBinary, leftOutComments } from '../writing/lines';
import { wholeLimit } from '../writing/time-limit';

const nameOf = (variable: Parameters<typeof identOf>[0]): string =>
  identOf(variable)
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase();

/** A value as something that can be borrowed as text. */
function value(one: Value): string {
  const [first] = one;
  if (one.length === 0) return '""';
  if (one.length === 1 && first !== undefined)
    return 'text' in first ? quote(first.text) : `&${nameOf(first.variable)}`;
  const format = one.map((piece) => ('text' in piece ? piece.text.replace(/[{}]/g, '$&$&') : '{}')).join('');
  const args = one.flatMap((piece) => ('text' in piece ? [] : [nameOf(piece.variable)]));
  return `format!(${quote(format)}, ${args.join(', ')})`;
}

/** Calls one behind the other stay on a line that is up to so long, as rustfmt has it. */
const CHAIN_CHARS = 61;
/** And so arguments beside one another. */
const CALL_CHARS = 60;

function clientOf(builder: readonly string[]): string {
  const calls = ['builder()', ...builder.map((one) => one.slice(1)), 'build()?;'];
  const line = `Client::${calls.join('.')}`;
  return line.length < CHAIN_CHARS
    ? `let client = ${line}`
    : `let client = Client::builder()\n${calls
        .slice(1)
        .map((one) => `    .${one}`)
        .join('\n')}`;
}

/** Methods that the client has calls for. */
const OWN_CALLS: Partial<Record<string, string>> = {
  GET: 'get',
  POST: 'post',
  PUT: 'put',
  PATCH: 'patch',
  DELETE: 'delete',
  HEAD: 'head',
};

/** A call in a chain; its arguments stand below one another where they are long together. */
const call = (name: string, args: readonly string[]): string =>
  args.join(', ').length <= CALL_CHARS
    ? `.${name}(${args.join(', ')})`
    : `.${name}(\n${args.map((one) => `    ${one},\n`).join('')})`;

/** Rust's reqwest, blocking. */
export const rustReqwest = {
  id: 'rust-reqwest',
  label: 'Rust, reqwest',
  language: 'Rust',
  extension: 'rs',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUrlStandard,
      repeats: true,
      unicode: true,
      givesUp: { afterS: 30, on: 'whole' },
      payloadWithGet: true,
      parts: false,
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    const builder = [
      ...(redirects === undefined
        ? []
        : [`.redirect(reqwest::redirect::Policy::${redirects === 'follow' ? 'limited(10)' : 'none()'})`]),
      ...(proxy === undefined ? [] : [`.proxy(reqwest::Proxy::all(${quote(proxy)})?)`]),
      ...(ignoresCertificate ? ['.danger_accept_invalid_certs(true)'] : []),
    ];
    const body = bodyOf(plan);
    const own = OWN_CALLS[plan.method];
    const chain = [
      own === undefined
        ? call('request', [`Method::from_bytes(b${quote(plan.method)})?`, value(plan.address)])
        : `.${own}(${value(plan.address)})`,
      ...plan.headers.map((header) => `.header(${quote(header.name)}, ${value(header.value)})`),
      ...leftOutComments(plan, '//', quote),
      ...(body === undefined ? [] : [`.body(${body})`]),
      ...(timeLimitS === undefined
        ? []
        : [
            `.timeout(Duration::${wholeLimit(
              timeLimitS,
              (s) => `from_secs(${s})`,
              (ms) => `from_millis(${ms})`,
            )})`,
          ]),
      '.send()?;',
    ];
    const oneLine = `client${chain.join('')}`;
    const answer =
      prints === 'status'
        ? ['println!("{}", response.status());']
        : [
            'let response = response.error_for_status()?;',
            ...(isBinary(plan)
              ? ['std::fs::write("response", response.bytes()?)?;']
              : plan.answer === 'json'
                ? ['println!("{:#}", response.json::<serde_json::Value>()?);']
                : ['println!("{}", response.text()?);']),
          ];
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `let ${nameOf(variable)} = ${variable.isSecret ? `std::env::var(${quote(envOf(variable))})?` : `String::from(${quote(variable.value)})`};`,
      ),
      builder.length === 0 ? 'let client = Client::new();' : clientOf(builder),
      ...(oneLine.length <= CHAIN_CHARS && plan.leftOut.length === 0
        ? [`let response = ${oneLine}`]
        : ['let response = client', ...indentAll(chain, '    ')]),
      ...answer,
      'Ok(())',
    ];
    const name = options.asFunction ? 'send' : 'main';
    const text = [
      `// Cargo.toml: reqwest = { version = "0.12", features = ["blocking"${plan.answer === 'json' && prints === 'body' ? ', "json"' : ''}${draft.wantsCompressed ? ', "gzip", "brotli"' : ''}] }${plan.answer === 'json' && prints === 'body' ? ', serde_json = "1"' : ''}${plan.body.type === 'bytes' ? ', base64 = "0.22"' : ''}`,
      ...(plan.body.type === 'bytes' ? ['use base64::prelude::*;'] : []),
      'use reqwest::blocking::Client;',
      ...(own === undefined ? ['use reqwest::Method;'] : []),
      ...(timeLimitS === undefined ? [] : ['use std::time::Duration;']),
      '',
      `fn ${name}() -> Result<(), Box<dyn std::error::Error>> {`,
      ...indentAll(lines, '    '),
      '}',
      ...(options.asFunction ? ['', 'fn main() -> Result<(), Box<dyn std::error::Error>> {', '    send()', '}'] : []),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const bodyOf = (plan: Plan<FlatBody>): string | undefined =>
  writeBody(plan, {
    // A body owns its text, or borrows one that lasts.
    text: (text) => {
      const fixed = fixedText(text);
      return fixed === undefined ? value(text).replace(/^&(\w+)$/, '$1.clone()') : quoteRustRaw(fixed);
    },
    bytes: (base64) => `BASE64_STANDARD.decode("${base64}")?`,
    file: (path) => `std::fs::read(${quote(path)})?`,
  });
