import { sentAsIs } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf, sendsEmptyBody } from '../plan';
import { quotePerl as quote } from '../quoting/perl';
import type { Target } from '../target';
import { envOf, identOf, plainText, type Value, writeValue } from '../value';
import { asFunction, rendered, writeBody } from '../writing/finish';
import { isBinary, leftOutComments } from '../writing/lines';

const value = (one: Value): string => writeValue(one, quote, (variable) => `$${identOf(variable)}`, ' . ');

/** What HTTP::Tiny takes for idempotent, and may change something. */
const RETRIED = /^(?:PUT|DELETE)$/;

/** Perl's HTTP::Tiny, which comes with it. */
export const perl = {
  id: 'perl',
  label: 'Perl, HTTP::Tiny',
  language: 'Perl',
  extension: 'pl',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: sentAsIs,
      repeats: true,
      unicode: false,
      givesUp: { afterS: 60, on: 'wait' },
      payloadWithGet: true,
      parts: false,
      addsType: 'application/octet-stream',
      refuses: (name) => (name === 'host' ? 'HTTP::Tiny sends the host of the URL' : undefined),
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    if (RETRIED.test(plan.method))
      plan.warnings.push(
        `HTTP::Tiny sends ${plan.method} once more where the connection breaks before an answer: the server may see it twice.`,
      );
    const hasEmptyAgent = plan.headers.some(
      ({ name, value: own }) => name.toLowerCase() === 'user-agent' && own.length === 0,
    );
    const client = [
      ...(hasEmptyAgent ? ["agent => ''"] : []),
      ...(timeLimitS === undefined ? [] : [`timeout => ${timeLimitS}`]),
      ...(redirects === 'stop' ? ['max_redirect => 0'] : []),
      ...(proxy === undefined ? [] : [`proxy => ${quote(proxy)}`]),
      ...(ignoresCertificate
        ? ['verify_SSL => 0']
        : /^https:/i.test(plainText(plan.address))
          ? ['verify_SSL => 1']
          : []),
    ];
    const groups = new Map<string, { readonly name: string; readonly values: string[] }>();
    for (const header of plan.headers) {
      const there = groups.get(header.name.toLowerCase());
      if (there === undefined)
        groups.set(header.name.toLowerCase(), { name: header.name, values: [value(header.value)] });
      else there.values.push(value(header.value));
    }
    const entries = [...groups.values()].map(({ name, values }) => ({
      name: quote(name),
      value: values.length === 1 ? (values[0] ?? "''") : `[${values.join(', ')}]`,
    }));
    const widest = Math.max(0, ...entries.map(({ name }) => name.length));
    const isMap = options.headers === 'map';
    const body = bodyOf(plan);
    const inner = [
      ...(isMap
        ? entries.length + plan.leftOut.length === 0
          ? []
          : [
              '        headers => {',
              ...entries.map((entry) => `            ${entry.name.padEnd(widest)} => ${entry.value},`),
              ...leftOutComments(plan, '#', quote, '            '),
              '        },',
            ]
        : entries.length > 0
          ? ['        headers => \\%headers,']
          : []),
      ...(body === undefined ? [] : [`        content => ${body},`]),
    ];
    // perltidy puts assignments that stand below one another in columns.
    const isBeside = plan.variables.length > 0 && plan.body.type !== 'file' && (isMap || entries.length === 0);
    const longest = Math.max('response'.length, ...plan.variables.map((variable) => identOf(variable).length));
    const create = `HTTP::Tiny->new${client.length > 0 ? `(${client.join(', ')})` : ''}`;
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `my $${identOf(variable).padEnd(isBeside ? longest : 0)} = ${variable.isSecret ? `$ENV{${envOf(variable)}}` : quote(variable.value)};`,
      ),
      ...(isMap || entries.length === 0
        ? []
        : [
            'my %headers;',
            ...entries.map((entry) => `$headers{${entry.name}} = ${entry.value};`),
            ...leftOutComments(plan, '#', quote),
          ]),
      ...(plan.body.type === 'file'
        ? [`open my $file, '<:raw', ${quote(plan.body.path)} or die $!;`, 'my $payload = do { local $/; <$file> };']
        : []),
      inner.length === 0
        ? `my ${'$response'.padEnd(isBeside ? longest + 1 : 0)} = ${create}->request(${quote(plan.method)}, ${value(plan.address)});`
        : `my ${'$response'.padEnd(isBeside ? longest + 1 : 0)} = ${create}->request(`,
      ...(inner.length === 0
        ? []
        : [`    ${quote(plan.method)},`, `    ${value(plan.address)},`, '    {', ...inner, '    }', ');']),
      ...(prints === 'status'
        ? ['print "$response->{status} $response->{reason}\\n";']
        : [
            'die "$response->{status} $response->{reason}: $response->{content}\\n" if $response->{status} >= 400;',
            ...(isBinary(plan)
              ? [`open my $out, '>:raw', 'response' or die $!;`, 'print $out $response->{content};']
              : [
                  plan.answer === 'json'
                    ? 'print JSON::PP->new->utf8->pretty->encode(decode_json($response->{content}));'
                    : 'print $response->{content};',
                ]),
          ]),
    ];
    const uses = [
      'HTTP::Tiny',
      ...(plan.answer === 'json' && prints === 'body' ? ['JSON::PP'] : []),
      ...(plan.body.type === 'bytes' ? ['MIME::Base64'] : []),
    ];
    const text = [
      'use strict;',
      'use warnings;',
      ...uses.map((name) => `use ${name};`),
      '',
      ...asFunction(plan, lines, {
        open: ['sub send_request {'],
        indent: '    ',
        close: ['}'],
        call: ['send_request();'],
      }),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const bodyOf = (plan: Plan<FlatBody>): string | undefined =>
  writeBody(plan, { text: value, bytes: (base64) => `decode_base64('${base64}')`, file: () => '$payload' }) ??
  (sendsEmptyBody(plan.method) ? "''" : undefined);
