import { base64Of } from '../../content';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf } from '../plan';
import { hostPort } from '../proxy';
import { quoteAutoHotkey as quote } from '../quoting/autohotkey';
import type { Target } from '../target';
import { envOf, identOf, type Value, writeValue } from '../value';
import { rendered } from '../writing/finish';
import { indentLines } from '../writing/indent';
import { isBinary, joinChunks, leftOutComments } from '../writing/lines';
import { httpProxyOf, WITH_SET_CREDENTIALS } from '../writing/proxy';
import { limitMs } from '../writing/time-limit';
import { WIN_HTTP_ABILITIES } from '../writing/win-http';

/** A line may be 16,383 characters long. */
const LITERAL_CHARS = 8000;
const literal = (text: string): string =>
  joinChunks(text, LITERAL_CHARS, quote, (pieces) => `(${pieces.join('\n    . ')})`);
const value = (one: Value): string => writeValue(one, literal, identOf, ' . ');

/** AutoHotkey v2 by the WinHttp object. */
export const autohotkey = {
  id: 'autohotkey',
  label: 'AutoHotkey v2, WinHttp',
  language: 'AutoHotkey',
  extension: 'ahk',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, WIN_HTTP_ABILITIES);
    const { timeLimitS, redirects, ignoresCertificate, prints } = plan.options;
    const proxy = httpProxyOf(plan, WITH_SET_CREDENTIALS);
    const { lines: bodyLines, expression } = bodyOf(plan);
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `${identOf(variable)} := ${variable.isSecret ? `EnvGet(${quote(envOf(variable))})` : quote(variable.value)}`,
      ),
      'request := ComObject("WinHttp.WinHttpRequest.5.1")',
      ...(proxy === undefined ? [] : [`request.SetProxy(2, ${quote(hostPort(proxy))})`]),
      // Time limits have to be set before the request is opened.
      ...(timeLimitS === undefined
        ? []
        : [
            `request.SetTimeouts(${limitMs(timeLimitS)}, ${limitMs(timeLimitS)}, ${limitMs(timeLimitS)}, ${limitMs(timeLimitS)})`,
          ]),
      `request.Open(${quote(plan.method)}, ${value(plan.address)}, false)`,
      ...plan.headers.map((header) => `request.SetRequestHeader(${quote(header.name)}, ${value(header.value)})`),
      ...leftOutComments(plan, ';', quote),
      ...(redirects === undefined
        ? []
        : [`request.Option[6] := ${redirects === 'follow' ? 'true' : 'false'}  ; EnableRedirects`]),
      ...(ignoresCertificate ? ['request.Option[4] := 0x3300  ; SslErrorIgnoreFlags'] : []),
      ...bodyLines,
      `request.Send(${expression})`,
      ...(prints === 'status'
        ? ['MsgBox(request.Status " " request.StatusText)']
        : [
            'if (request.Status >= 400)',
            '    throw Error(request.Status " " request.StatusText)',
            ...(isBinary(plan)
              ? [
                  'stream := ComObject("ADODB.Stream")',
                  'stream.Type := 1',
                  'stream.Open()',
                  'stream.Write(request.ResponseBody)',
                  'stream.SaveToFile("response", 2)',
                ]
              : ['MsgBox(request.ResponseText)']),
          ]),
    ];
    const needsBytes = plan.body.type === 'bytes';
    const flat = lines.flatMap((line) => line.split('\n'));
    const text = [
      '#Requires AutoHotkey v2.0',
      '',
      ...(options.asFunction ? ['SendRequest()', '', 'SendRequest() {', ...indentLines(flat, '    '), '}'] : flat),
      ...(needsBytes ? BYTES_OF : []),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const BYTES_OF = [
  '',
  'BytesOf(base64) {',
  '    element := ComObject("MSXML2.DOMDocument").createElement("bytes")',
  '    element.dataType := "bin.base64"',
  '    element.text := base64',
  '    return element.nodeTypedValue',
  '}',
];

function bodyOf({ body }: Plan<FlatBody>): { readonly lines: string[]; readonly expression: string } {
  switch (body.type) {
    case 'none':
      return { lines: [], expression: '' };
    case 'text':
      // WinHttp sends text as UTF-8.
      return { lines: [`payload := ${value(body.value)}`], expression: 'payload' };
    case 'bytes':
      return { lines: [], expression: `BytesOf(${literal(base64Of(body.bytes))})` };
    case 'file':
      return {
        lines: [
          'stream := ComObject("ADODB.Stream")',
          'stream.Type := 1',
          'stream.Open()',
          `stream.LoadFromFile(${quote(body.path)})`,
        ],
        expression: 'stream.Read()',
      };
    default:
      return body satisfies never;
  }
}
