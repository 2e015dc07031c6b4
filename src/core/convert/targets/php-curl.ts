import { sentAsIs } from '../addresses';
import type { DraftPart, Variable } from '../draft';
import { DEFAULT_OPTIONS } from '../options';
import { type Abilities, type Plan, planOf, sendsEmptyBody } from '../plan';
import { quotePhp as quote } from '../quoting/php';
import type { Target } from '../target';
import { envOf, identOf, joinTexts, plainText, type Value, writeValue } from '../value';
import { asFunction, rendered, writeBody } from '../writing/finish';
import { removedByName } from '../writing/libcurl';
import { isBinary, leftOutComments, partContent } from '../writing/lines';
import { wholeLimit } from '../writing/time-limit';

/** A value as an expression. */
export const phpValue = (one: Value): string => writeValue(one, quote, (variable) => `$${identOf(variable)}`, ' . ');

/** What PHP's curl can and cannot do. */
export const PHP_ABILITIES: Abilities = {
  address: sentAsIs,
  repeats: true,
  unicode: true,
  controls: true,
  payloadWithGet: true,
  parts: true,
  takesParts: fitsArray,
};

export const phpVariables = (variables: readonly Variable[]): string[] =>
  variables.map(
    (variable) =>
      `$${identOf(variable)} = ${variable.isSecret ? `getenv(${quote(envOf(variable))})` : quote(variable.value)};`,
  );

/** The statements that leave a request in `$curl`. */
export function phpRequest(plan: Plan, wantsCompressed: boolean | undefined): string[] {
  const { timeLimitS, redirects, proxy, ignoresCertificate, headers: style } = plan.options;
  const body = bodyOf(plan);
  const removed = removedByName(plan, body !== undefined);
  const headerLine = (name: string, own: Value): string =>
    plainText(own) === '' ? quote(`${name};`) : phpValue(joinTexts([{ text: `${name}: ` }, ...own]));
  const headers = [
    ...plan.headers.map(({ name, value: own }) => `        ${headerLine(name, own)},`),
    ...leftOutComments(plan, '//', quote, '        '),
    ...removed.map((name) => `        '${name}:',`),
  ];
  const setOptions = [
    '    CURLOPT_RETURNTRANSFER => true,',
    ...(plan.method === 'GET' && body === undefined
      ? []
      : plan.method === 'HEAD' && body === undefined
        ? ['    CURLOPT_NOBODY => true,']
        : [`    CURLOPT_CUSTOMREQUEST => ${quote(plan.method)},`]),
    ...(plan.isPlainAddress ? [] : ['    CURLOPT_PATH_AS_IS => true,']),
    ...(style === 'map' && headers.length > 0 ? ['    CURLOPT_HTTPHEADER => [', ...headers, '    ],'] : []),
    ...(body === undefined ? [] : [`    CURLOPT_POSTFIELDS => ${body},`]),
    ...(wantsCompressed === true ? [`    CURLOPT_ENCODING => '',`] : []),
    ...(timeLimitS === undefined
      ? []
      : [
          `    ${wholeLimit(
            timeLimitS,
            (s) => `CURLOPT_TIMEOUT => ${s}`,
            (ms) => `CURLOPT_TIMEOUT_MS => ${ms}`,
          )},`,
        ]),
    ...(redirects === undefined ? [] : [`    CURLOPT_FOLLOWLOCATION => ${redirects === 'follow'},`]),
    ...(proxy === undefined ? [] : [`    CURLOPT_PROXY => ${quote(proxy)},`]),
    ...(ignoresCertificate ? ['    CURLOPT_SSL_VERIFYPEER => false,', '    CURLOPT_SSL_VERIFYHOST => 0,'] : []),
  ];
  return [
    `$curl = curl_init(${phpValue(plan.address)});`,
    ...(style === 'calls' && headers.length > 0
      ? [
          '$headers = [];',
          ...headers
            .map((line) => line.trim())
            .map((line) => (line.startsWith('//') ? line : `$headers[] = ${line.replace(/,$/, '')};`)),
          'curl_setopt($curl, CURLOPT_HTTPHEADER, $headers);',
        ]
      : []),
    'curl_setopt_array($curl, [',
    ...setOptions,
    ']);',
  ];
}

/** PHP's curl extension. */
export const phpCurl = {
  id: 'php-curl',
  label: 'PHP, curl',
  language: 'PHP',
  extension: 'php',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, PHP_ABILITIES);
    const lines = [
      ...phpVariables(plan.variables),
      ...phpRequest(plan, draft.wantsCompressed),
      '$body = curl_exec($curl);',
      'if ($body === false) {',
      '    throw new RuntimeException(curl_error($curl));',
      '}',
      '$status = curl_getinfo($curl, CURLINFO_RESPONSE_CODE);',
      ...(plan.options.prints === 'status'
        ? ['echo $status, PHP_EOL;']
        : [
            'if ($status >= 400) {',
            '    throw new RuntimeException("$status: $body");',
            '}',
            isBinary(plan)
              ? `file_put_contents('response', $body);`
              : plan.answer === 'json'
                ? 'echo json_encode(json_decode($body), JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE), PHP_EOL;'
                : 'echo $body;',
          ]),
    ];
    const text = [
      '<?php',
      '',
      ...asFunction(plan, lines, {
        open: ['function send(): void', '{'],
        indent: '    ',
        close: ['}'],
        call: ['send();'],
      }),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

function bodyOf(plan: Plan): string | undefined {
  const { body, method } = plan;
  if (body.type === 'parts') return partsOf(body.parts);
  return (
    writeBody(
      { ...plan, body },
      {
        text: phpValue,
        bytes: (base64) => `base64_decode('${base64}')`,
        file: (path) => `file_get_contents(${quote(path)})`,
      },
    ) ?? (sendsEmptyBody(method) ? "''" : undefined)
  );
}

/** Whether an array can be these parts: it has each name once, and gives every file a type. */
function fitsArray(parts: readonly DraftPart[]): boolean {
  return (
    new Set(parts.map(({ name }) => name)).size === parts.length &&
    parts.length > 0 &&
    parts.every(({ fileName, contentType }) => (fileName === undefined) === (contentType === undefined))
  );
}

function partsOf(parts: readonly DraftPart[]): string {
  const written = parts.map((part) => {
    const { text, base64 } = partContent(part);
    const content = text !== undefined ? quote(text) : `base64_decode('${base64}')`;
    if (part.fileName === undefined) return `        ${quote(part.name)} => ${content},`;
    const type = part.contentType ?? 'application/octet-stream';
    return part.bytes === undefined
      ? `        ${quote(part.name)} => new CURLFile(${quote(part.fileName)}, ${quote(type)}),`
      : `        ${quote(part.name)} => new CURLStringFile(${content}, ${quote(part.fileName)}, ${quote(type)}),`;
  });
  return `[\n${written.join('\n')}\n    ]`;
}
