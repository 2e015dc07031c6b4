import { sentAsIs } from '../addresses';
import type { DraftPart, Variable } from '../draft';
import { DEFAULT_OPTIONS } from '../options';
import { bodyBytes, type Plan, planOf, sendsEmptyBody } from '../plan';
import { quoteC as quote, quoteBytesC } from '../quoting/c';
import type { Target } from '../target';
import { envOf, identOf, joinTexts, plainText, type Value } from '../value';
import { rendered } from '../writing/finish';
import { removedByName } from '../writing/libcurl';
import { leftOutComments } from '../writing/lines';
import { limitMs } from '../writing/time-limit';

/** C with libcurl. */
export const c = {
  id: 'c',
  label: 'C, libcurl',
  language: 'C',
  extension: 'c',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: sentAsIs,
      repeats: true,
      unicode: true,
      controls: true,
      payloadWithGet: true,
      parts: true,
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    const hasBody = plan.body.type !== 'none' || sendsEmptyBody(plan.method);
    const body = bodyOf(plan);
    const headers = headersOf(plan, hasBody);
    const isFile = prints === 'file' || plan.answer === 'binary';
    const takesNone = prints === 'status';
    const set = (name: string, value: string): string => `curl_easy_setopt(curl, CURLOPT_${name}, ${value});`;
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `const char *${nameOf(variable)} = ${variable.isSecret ? `getenv(${quote(envOf(variable))})` : quote(variable.value)};`,
      ),
      ...plan.variables.flatMap((variable) => (variable.isSecret ? missing(variable) : [])),
      ...body.before,
      'CURL *curl = curl_easy_init();',
      ...headers.lines,
      set('URL', value(plan.address)),
      ...(plan.method === 'HEAD' && !hasBody
        ? [set('NOBODY', '1L')]
        : plan.method === 'GET' && !hasBody
          ? []
          : [set('CUSTOMREQUEST', quote(plan.method))]),
      ...(plan.isPlainAddress ? [] : [set('PATH_AS_IS', '1L')]),
      ...(headers.isUsed ? [set('HTTPHEADER', 'headers')] : []),
      ...body.lines,
      ...(draft.wantsCompressed ? [set('ACCEPT_ENCODING', '""')] : []),
      ...(timeLimitS === undefined ? [] : [set('TIMEOUT_MS', `${limitMs(timeLimitS)}L`)]),
      ...(redirects === undefined ? [] : [set('FOLLOWLOCATION', redirects === 'follow' ? '1L' : '0L')]),
      ...(proxy === undefined ? [] : [set('PROXY', quote(proxy))]),
      ...(ignoresCertificate ? [set('SSL_VERIFYPEER', '0L'), set('SSL_VERIFYHOST', '0L')] : []),
      ...(isFile ? ['FILE *output = fopen("response", "wb");', set('WRITEDATA', 'output')] : []),
      ...(takesNone ? [set('WRITEFUNCTION', 'ignore')] : []),
      '',
      'CURLcode code = curl_easy_perform(curl);',
      'long status = 0;',
      'curl_easy_getinfo(curl, CURLINFO_RESPONSE_CODE, &status);',
      'if (code != CURLE_OK) fprintf(stderr, "%s\\n", curl_easy_strerror(code));',
      ...(takesNone ? ['printf("%ld\\n", status);'] : []),
      ...(isFile ? ['fclose(output);'] : []),
      ...(headers.isUsed ? ['curl_slist_free_all(headers);'] : []),
      ...(plan.body.type === 'parts' ? ['curl_mime_free(form);'] : []),
      'curl_easy_cleanup(curl);',
      'return code == CURLE_OK && status < 400 ? 0 : 1;',
    ];
    const usesText = [plan.address, ...plan.headers.map((header) => header.value), body.value].some(isMixed);
    return rendered(plan, [
      '// cc request.c -lcurl',
      '#include <curl/curl.h>',
      ...(usesText ? ['#include <stdarg.h>'] : []),
      '#include <stdio.h>',
      '#include <stdlib.h>',
      ...(usesText || plan.variables.length > 0 ? ['#include <string.h>'] : []),
      '',
      ...(usesText ? JOINED : []),
      ...(takesNone ? IGNORE : []),
      ...(options.asFunction
        ? [
            'static int send_request(void) {',
            ...indented(lines),
            '}',
            '',
            'int main(void) {',
            '    return send_request();',
            '}',
          ]
        : ['int main(void) {', ...indented(lines), '}']),
    ]);
  },
} satisfies Target;

const indented = (lines: readonly string[]): string[] => lines.map((line) => (line === '' ? '' : `    ${line}`));

const nameOf = (variable: Variable): string => identOf(variable);
const isMixed = (one: Value): boolean => one.length > 1;

/** Several texts as one, which is never freed: the program ends with the request. */
const JOINED = [
  'static char *joined(int count, ...) {',
  '    va_list texts;',
  '    size_t length = 0;',
  '    va_start(texts, count);',
  '    for (int at = 0; at < count; at++) length += strlen(va_arg(texts, const char *));',
  '    va_end(texts);',
  '    char *all = calloc(length + 1, 1);',
  '    va_start(texts, count);',
  '    for (int at = 0; at < count; at++) strcat(all, va_arg(texts, const char *));',
  '    va_end(texts);',
  '    return all;',
  '}',
  '',
];

const IGNORE = [
  'static size_t ignore(char *data, size_t size, size_t count, void *more) {',
  '    (void)data;',
  '    (void)more;',
  '    return size * count;',
  '}',
  '',
];

const missing = (variable: Variable): string[] => [
  `if (${nameOf(variable)} == NULL) {`,
  `    fprintf(stderr, "set %s first\\n", ${quote(envOf(variable))});`,
  '    return 2;',
  '}',
];

function value(one: Value): string {
  if (one.length === 0) return '""';
  const pieces = one.map((piece) => ('text' in piece ? quote(piece.text) : nameOf(piece.variable)));
  return pieces.length === 1 ? (pieces[0] ?? '""') : `joined(${pieces.length}, ${pieces.join(', ')})`;
}

function headersOf(plan: Plan, hasBody: boolean): { readonly lines: string[]; readonly isUsed: boolean } {
  const removed = removedByName(plan, hasBody);
  const line = (name: string, own: Value): string =>
    plainText(own) === '' ? quote(`${name};`) : value(joinTexts([{ text: `${name}: ` }, ...own]));
  const all = [
    ...plan.headers.map(({ name, value: own }) => line(name, own)),
    ...removed.map((name) => quote(`${name}:`)),
  ];
  return {
    isUsed: all.length > 0,
    lines: [
      ...(all.length === 0 ? [] : ['struct curl_slist *headers = NULL;']),
      ...all.map((one) => `headers = curl_slist_append(headers, ${one});`),
      ...leftOutComments(plan, '//', quote),
    ],
  };
}

interface Body {
  /** What stands before the handle is made. */
  readonly before: readonly string[];
  readonly lines: readonly string[];
  readonly value: Value;
}

function bodyOf(plan: Plan): Body {
  const { body, method } = plan;
  const fields = (size: string): string[] => [
    `curl_easy_setopt(curl, CURLOPT_POSTFIELDSIZE_LARGE, (curl_off_t)${size});`,
    'curl_easy_setopt(curl, CURLOPT_POSTFIELDS, body);',
  ];
  switch (body.type) {
    case 'none':
      return sendsEmptyBody(method)
        ? { before: ['static const char body[] = "";'], lines: fields('0'), value: [] }
        : { before: [], lines: [], value: [] };
    case 'file':
      return {
        before: [
          `FILE *payload = fopen(${quote(body.path)}, "rb");`,
          'if (payload == NULL) {',
          '    perror("payload");',
          '    return 2;',
          '}',
          'fseek(payload, 0, SEEK_END);',
          'long size = ftell(payload);',
          'rewind(payload);',
          'char *body = malloc((size_t)size + 1);',
          'size = (long)fread(body, 1, (size_t)size, payload);',
          'fclose(payload);',
        ],
        lines: fields('size'),
        value: [],
      };
    case 'parts':
      return { before: [], lines: formLines(body.parts), value: [] };
    case 'text':
    case 'bytes': {
      const mixed = body.type === 'text' && body.value.some((piece) => 'variable' in piece) ? body.value : undefined;
      if (mixed !== undefined)
        return { before: [`const char *body = ${value(mixed)};`], lines: fields('strlen(body)'), value: mixed };
      const bytes = bodyBytes(body) ?? new Uint8Array();
      const literal = quoteBytesC(bytes, '        ');
      return { before: [`static const char body[] = ${literal};`], lines: fields('(sizeof body - 1)'), value: [] };
    }
    default:
      return body satisfies never;
  }
}

function formLines(parts: readonly DraftPart[]): string[] {
  return [
    'curl_mime *form = curl_mime_init(curl);',
    'curl_mimepart *part;',
    ...parts.flatMap(({ name, fileName, contentType, bytes }) => [
      'part = curl_mime_addpart(form);',
      `curl_mime_name(part, ${quote(name)});`,
      ...(bytes === undefined
        ? [`curl_mime_filedata(part, ${quote(fileName ?? name)});`]
        : [`curl_mime_data(part, ${quoteBytesC(bytes, '        ')}, ${bytes.length});`]),
      ...(fileName === undefined ? [] : [`curl_mime_filename(part, ${quote(fileName)});`]),
      ...(contentType === undefined ? [] : [`curl_mime_type(part, ${quote(contentType)});`]),
    ]),
    'curl_easy_setopt(curl, CURLOPT_MIMEPOST, form);',
  ];
}
