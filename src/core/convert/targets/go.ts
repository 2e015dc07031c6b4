import { base64Of } from '../../content';
import { sentAsIs } from '../addresses';
import type { Variable } from '../draft';
import { DEFAULT_OPTIONS } from '../options';
import { type Abilities, type Plan, planOf } from '../plan';
import { quoteGo as quote } from '../quoting/go';
import type { Target } from '../target';
import { envOf, identOf, joinTexts, splitUrlValue, type Value, writeValue } from '../value';
import { rendered } from '../writing/finish';
import { isBinary, leftOutComments, partContent } from '../writing/lines';
import { wholeLimit } from '../writing/time-limit';

/** A value as an expression. */
export const goValue = (one: Value): string => writeValue(one, quote, identOf);
const value = goValue;
/** One of several arguments: gofmt leaves no blanks in it. */
const argument = (one: Value): string => writeValue(one, quote, identOf, '+');

/** What Go's net/http can and cannot do. */
export const GO_ABILITIES: Abilities = {
  address: sentAsIs,
  repeats: true,
  unicode: true,
  payloadWithGet: true,
  parts: true,
  refuses: (name, value) =>
    name === 'user-agent' && value === '' ? 'Go sends no User-Agent instead of an empty one' : undefined,
};

/** What a variable is at first. */
export const goInitial = (variable: Variable): string =>
  variable.isSecret ? `os.Getenv(${quote(envOf(variable))})` : quote(variable.value);

/**
 * The statements that leave a request in `request`.
 * @param fail what is done where one of them fails
 */
export function goRequest(plan: Plan, imports: Set<string>, fail: readonly string[]): string[] {
  const { lines: bodyLines, reader } = bodyOf(plan, imports, fail);
  const host = plan.headers.find(({ name }) => name.toLowerCase() === 'host');
  const headers = plan.headers.filter((header) => header !== host);
  const isMap = plan.options.headers === 'map' && headers.length > 0;
  const { origin, path, query } = splitUrlValue(plan.address);
  const sent = plan.isPlainAddress
    ? []
    : [
        '// Path and query as they stand, not as net/url would write them.',
        `request.URL.Opaque = ${value(path)}`,
        ...(query === undefined
          ? []
          : query.length === 0
            ? ['request.URL.ForceQuery = true']
            : [`request.URL.RawQuery = ${value(query)}`]),
      ];
  return [
    ...bodyLines,
    `request, err := http.NewRequest(${quote(plan.method)}, ${plan.isPlainAddress ? argument(plan.address) : argument(joinTexts([...origin, { text: '/' }]))}, ${reader})`,
    ...fail,
    ...sent,
    ...(host === undefined ? [] : [`request.Host = ${value(host.value)}`]),
    ...(isMap && !repeats(plan)
      ? [
          'request.Header = http.Header{',
          ...aligned(headers.map((header) => [quote(canonical(header.name)), `{${value(header.value)}},`])).map(
            (line) => `\t${line}`,
          ),
          ...leftOutComments(plan, '//', quote, '\t'),
          '}',
        ]
      : [
          ...headers.map((header) => `request.Header.Add(${quote(header.name)}, ${argument(header.value)})`),
          ...leftOutComments(plan, '//', quote),
        ]),
    ...(plan.body.type === 'parts' ? ['request.Header.Set("Content-Type", form.FormDataContentType())'] : []),
  ];
}

/** The statements that leave a client in `client`; none where Go's own does. */
export function goClient({ options }: Plan, imports: Set<string>, fail: readonly string[]): string[] {
  const { timeLimitS, redirects, proxy, ignoresCertificate } = options;
  const client: string[] = [];
  if (timeLimitS !== undefined)
    client.push(
      `Timeout: ${wholeLimit(
        timeLimitS,
        (s) => `${s} * time.Second`,
        (ms) => `${ms} * time.Millisecond`,
      )},`,
    );
  if (redirects === 'stop') {
    client.push('CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },');
  }
  const transport = [
    ...(proxy === undefined ? [] : ['Proxy: http.ProxyURL(proxy),']),
    ...(ignoresCertificate ? ['TLSClientConfig: &tls.Config{InsecureSkipVerify: true},'] : []),
  ];
  if (transport.length > 0) client.push(`Transport: &http.Transport{${transport.join(' ').replace(/,$/, '')}},`);
  if (timeLimitS !== undefined) imports.add('time');
  if (ignoresCertificate) imports.add('crypto/tls');
  if (proxy !== undefined) imports.add('net/url');
  return client.length === 0
    ? []
    : [
        ...(proxy === undefined ? [] : [`proxy, err := url.Parse(${quote(proxy)})`, ...fail]),
        'client := &http.Client{',
        ...client.map((line) => `\t${line}`),
        '}',
      ];
}

export const goImports = (imports: ReadonlySet<string>): string[] => [
  'import (',
  ...[...imports].sort().map((path) => `\t"${path}"`),
  ')',
];

/** Go's net/http. */
export const go = {
  id: 'go',
  label: 'Go, net/http',
  language: 'Go',
  extension: 'go',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, GO_ABILITIES);
    const imports = new Set(['log', 'net/http', ...(plan.options.prints === 'status' ? ['fmt'] : ['io'])]);
    if (plan.variables.some(({ isSecret }) => isSecret)) imports.add('os');
    const request = goRequest(plan, imports, FAIL);
    const client = goClient(plan, imports, FAIL);
    const lines = [
      ...plan.variables.map((variable) => `${identOf(variable)} := ${goInitial(variable)}`),
      ...request,
      ...client,
      `response, err := ${client.length === 0 ? 'http.DefaultClient' : 'client'}.Do(request)`,
      ...FAIL,
      'defer response.Body.Close()',
      ...answerLines(plan, imports),
    ];
    const name = options.asFunction ? 'send' : 'main';
    const text = [
      'package main',
      '',
      ...goImports(imports),
      '',
      `func ${name}() {`,
      ...lines.map((line) => (line === '' ? '' : `\t${line}`)),
      '}',
      ...(options.asFunction ? ['', 'func main() {', '\tsend()', '}'] : []),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const FAIL = ['if err != nil {', '\tlog.Fatal(err)', '}'];

/** Keys up to this long are aligned with any other, as gofmt has it; longer ones where they are of like length. */
const SHORT_KEY = 40;
const LIKE_LENGTH = 2.5;

/** Keys and values of a literal in columns, in the sections in which gofmt aligns them (go/printer, exprList). */
function aligned(pairs: readonly (readonly [key: string, value: string])[]): string[] {
  const sections: (readonly [key: string, value: string])[][] = [];
  let before = 0;
  let lengths: number[] = [];
  for (const pair of pairs) {
    const { length } = pair[0];
    const mean = Math.exp(lengths.reduce((total, one) => total + Math.log(one), 0) / Math.max(1, lengths.length));
    const isApart =
      lengths.length > 0 &&
      (before > SHORT_KEY || length > SHORT_KEY) &&
      (LIKE_LENGTH * length <= mean || length >= LIKE_LENGTH * mean);
    const section = isApart ? undefined : sections.at(-1);
    if (section === undefined) {
      sections.push([pair]);
      lengths = [];
    } else section.push(pair);
    lengths.push(length);
    before = length;
  }
  return sections.flatMap((section) => {
    const width = Math.max(...section.map(([key]) => key.length)) + 2;
    return section.map(([key, one]) => `${key}:`.padEnd(width) + one);
  });
}

const repeats = ({ headers }: Plan): boolean =>
  new Set(headers.map(({ name }) => name.toLowerCase())).size < headers.length;

/** As net/http writes names: a map under another spelling would be sent, but not found again. */
const canonical = (name: string): string =>
  name.toLowerCase().replace(/(^|-)([a-z])/g, (_, dash: string, letter: string) => dash + letter.toUpperCase());

/** Long because the code of each kind of body stands here from top to bottom, in its order. */
function bodyOf(
  { body }: Plan,
  imports: Set<string>,
  fail: readonly string[],
): { readonly lines: string[]; readonly reader: string } {
  switch (body.type) {
    case 'none':
      return { lines: [], reader: 'nil' };
    case 'text':
      imports.add('strings');
      return { lines: [`payload := strings.NewReader(${value(body.value)})`], reader: 'payload' };
    case 'bytes':
      imports.add('bytes').add('encoding/base64');
      return {
        lines: [`payload, err := base64.StdEncoding.DecodeString("${base64Of(body.bytes)}")`, ...fail],
        reader: 'bytes.NewReader(payload)',
      };
    case 'file':
      imports.add('os');
      return {
        lines: [`payload, err := os.Open(${quote(body.path)})`, ...fail, 'defer payload.Close()'],
        reader: 'payload',
      };
    case 'parts': {
      imports.add('bytes').add('mime/multipart');
      const lines = ['var payload bytes.Buffer', 'form := multipart.NewWriter(&payload)'];
      for (const part of body.parts) {
        const content = partContent(part);
        if (part.fileName === undefined && part.contentType === undefined && content.text !== undefined) {
          lines.push(`form.WriteField(${quote(part.name)}, ${quote(content.text)})`);
          continue;
        }
        imports.add('net/textproto');
        const file = part.fileName === undefined ? '' : `; filename="${escaped(part.fileName)}"`;
        const head = `form-data; name="${escaped(part.name)}"${file}`;
        const type = part.contentType === undefined ? '' : `, "Content-Type": {${quote(part.contentType)}}`;
        const writer = `form.CreatePart(textproto.MIMEHeader{"Content-Disposition": {${quote(head)}}${type}})`;
        lines.push('{', `\tpart, err := ${writer}`, ...fail.map((line) => `\t${line}`));
        if (content.text !== undefined) lines.push(`\tpart.Write([]byte(${quote(content.text)}))`);
        else if (content.base64 !== undefined) {
          imports.add('encoding/base64');
          lines.push(
            `\tdata, err := base64.StdEncoding.DecodeString("${content.base64}")`,
            ...fail.map((line) => `\t${line}`),
            '\tpart.Write(data)',
          );
        } else {
          imports.add('os');
          lines.push(
            `\tdata, err := os.ReadFile(${quote(part.fileName ?? part.name)})`,
            ...fail.map((line) => `\t${line}`),
            '\tpart.Write(data)',
          );
        }
        lines.push('}');
      }
      return { lines: [...lines, 'form.Close()'], reader: '&payload' };
    }
    default:
      return body satisfies never;
  }
}

const escaped = (name: string): string => name.replace(/["\r\n]/g, (character) => encodeURIComponent(character));

function answerLines(plan: Plan, imports: Set<string>): string[] {
  if (plan.options.prints === 'status') return ['fmt.Println(response.Status)'];
  const read = [
    'body, err := io.ReadAll(response.Body)',
    ...FAIL,
    'if response.StatusCode >= 400 {',
    '\tlog.Fatalf("%s: %s", response.Status, body)',
    '}',
  ];
  if (isBinary(plan)) {
    imports.add('os');
    return [...read, 'if err := os.WriteFile("response", body, 0o644); err != nil {', '\tlog.Fatal(err)', '}'];
  }
  imports.add('fmt');
  if (plan.answer !== 'json') return [...read, 'fmt.Println(string(body))'];
  imports.add('encoding/json').add('bytes');
  return [
    ...read,
    'var laidOut bytes.Buffer',
    'if err := json.Indent(&laidOut, body, "", "  "); err != nil {',
    '\tlog.Fatal(err)',
    '}',
    'fmt.Println(laidOut.String())',
  ];
}
