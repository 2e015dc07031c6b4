import { base64Of } from '../../content';
import type { Variable } from '../draft';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf } from '../plan';
import { hostPort } from '../proxy';
import { quoteVba as quote, vbaTerms } from '../quoting/vba';
import type { Target } from '../target';
import { envOf, identOf, type Value } from '../value';
import { rendered } from '../writing/finish';
import { indentLines } from '../writing/indent';
import { isBinary, leftOutComments } from '../writing/lines';
import { httpProxyOf, WITH_SET_CREDENTIALS } from '../writing/proxy';
import { limitMs } from '../writing/time-limit';
import { WIN_HTTP_ABILITIES } from '../writing/win-http';

/** A line may be 1,023 characters long, so that a long text is put together over several. */
const LINE_CHARS = 900;
/** A procedure may come to 64 kB. */
const PROCEDURE_CHARS = 60_000;

const OWN_WORDS =
  /^(dim|sub|date|time|now|mid|right|chr|chrw|val|environ|debug|end|call|get|put|erase|redim|optional|byval|byref|like|mod|xor|imp|eqv|resume|gosub|rem|stream|element|request)$/i;
const nameOf = (variable: Variable): string => {
  const name = identOf(variable);
  return OWN_WORDS.test(name) ? `${name}Value` : name;
};

const termsOf = (value: Value): string[] =>
  value.length === 0
    ? ['""']
    : value.flatMap((piece) => ('text' in piece ? vbaTerms(piece.text, LINE_CHARS / 2) : [nameOf(piece.variable)]));

/** The statements that leave a text in a variable, none of which is too long for its line. */
function assigned(name: string, terms: readonly string[]): string[] {
  const lines: string[] = [];
  let line = `${name} = `;
  let isFirst = true;
  for (const term of terms) {
    if (!isFirst && line.length + term.length > LINE_CHARS) {
      lines.push(line);
      line = `${name} = ${name} & `;
      isFirst = true;
    }
    line += isFirst ? term : ` & ${term}`;
    isFirst = false;
  }
  return [...lines, line];
}

/** A statement with a text in it; the text comes from a variable where it would be too long for the line. */
function withText(before: string, value: Value): string[] {
  const terms = termsOf(value);
  const line = `${before}${terms.join(' & ')}`;
  return line.length <= LINE_CHARS ? [line] : [...assigned('text', terms), `${before}text`];
}

/** VBA by the WinHttp object, for a module of a workbook or document. */
export const vba = {
  id: 'vba',
  label: 'VBA, WinHttp',
  language: 'VBA',
  extension: 'bas',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, WIN_HTTP_ABILITIES);
    const { timeLimitS, redirects, ignoresCertificate, prints } = plan.options;
    const proxy = httpProxyOf(plan, WITH_SET_CREDENTIALS);
    const { lines: bodyLines, argument } = bodyOf(plan);
    const waitMs = timeLimitS === undefined ? undefined : limitMs(timeLimitS);
    const ownsText = [...plan.headers.map(({ value }) => value), plan.address].some(
      (value) => termsOf(value).join(' & ').length > LINE_CHARS - 100,
    );
    const lines = [
      'Dim request As Object',
      ...(ownsText ? ['Dim text As String'] : []),
      ...plan.variables.map((variable) => `Dim ${nameOf(variable)} As String`),
      ...plan.variables.flatMap((variable) =>
        variable.isSecret
          ? [`${nameOf(variable)} = Environ("${envOf(variable)}")`]
          : assigned(nameOf(variable), vbaTerms(variable.value, LINE_CHARS / 2)),
      ),
      'Set request = CreateObject("WinHttp.WinHttpRequest.5.1")',
      ...(proxy === undefined ? [] : [`request.SetProxy 2, ${quote(hostPort(proxy))}`]),
      ...(waitMs === undefined ? [] : [`request.SetTimeouts ${waitMs}, ${waitMs}, ${waitMs}, ${waitMs}`]),
      ...withText(`request.Open ${quote(plan.method)}, `, plan.address).map((line, at, all) =>
        at === all.length - 1 ? `${line}, False` : line,
      ),
      ...plan.headers.flatMap((header) => withText(`request.SetRequestHeader ${quote(header.name)}, `, header.value)),
      ...leftOutComments(plan, "'", quote),
      ...(redirects === undefined
        ? []
        : [`request.Option(6) = ${redirects === 'follow' ? 'True' : 'False'} ' EnableRedirects`]),
      ...(ignoresCertificate ? ["request.Option(4) = 13056 ' SslErrorIgnoreFlags"] : []),
      ...bodyLines,
      `request.Send${argument}`,
      ...(prints === 'status'
        ? ['Debug.Print request.Status, request.StatusText']
        : [
            'If request.Status >= 400 Then',
            '    Err.Raise vbObjectError + request.Status, , request.Status & " " & request.StatusText & vbLf & request.ResponseText',
            'End If',
            ...(isBinary(plan) ? SAVED : ['Debug.Print request.ResponseText']),
          ]),
    ];
    if (lines.join('\n').length > PROCEDURE_CHARS)
      plan.warnings.push(
        'VBA takes no procedure of more than 64 kB: put the payload into a file and read it from there.',
      );
    const text = [
      'Option Explicit',
      '',
      'Sub SendRequest()',
      ...indentLines(lines, '    '),
      'End Sub',
      ...(plan.body.type === 'bytes' ? BYTES_OF : []),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const SAVED = [
  'Dim stream As Object',
  'Set stream = CreateObject("ADODB.Stream")',
  'stream.Type = 1',
  'stream.Open',
  'stream.Write request.ResponseBody',
  'stream.SaveToFile "response", 2',
];

const BYTES_OF = [
  '',
  'Function BytesOf(ByVal base64 As String) As Byte()',
  '    Dim element As Object',
  '    Set element = CreateObject("MSXML2.DOMDocument").createElement("bytes")',
  '    element.DataType = "bin.base64"',
  '    element.Text = base64',
  '    BytesOf = element.nodeTypedValue',
  'End Function',
];

function bodyOf({ body }: Plan<FlatBody>): { readonly lines: readonly string[]; readonly argument: string } {
  switch (body.type) {
    case 'none':
      return { lines: [], argument: '' };
    case 'text':
      // WinHttp sends text as UTF-8.
      return { lines: ['Dim payload As String', ...assigned('payload', termsOf(body.value))], argument: ' payload' };
    case 'bytes':
      return {
        lines: ['Dim payload As String', ...assigned('payload', vbaTerms(base64Of(body.bytes), LINE_CHARS / 2))],
        argument: ' BytesOf(payload)',
      };
    case 'file':
      return {
        lines: [
          'Dim content As Object',
          'Set content = CreateObject("ADODB.Stream")',
          'content.Type = 1',
          'content.Open',
          `content.LoadFromFile ${quote(body.path)}`,
        ],
        argument: ' content.Read',
      };
    default:
      return body satisfies never;
  }
}
