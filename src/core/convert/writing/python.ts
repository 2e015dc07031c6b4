import { base64Of } from '../../content';
import type { DraftPart, Variable } from '../draft';
import type { Plan } from '../plan';
import { quotePython as quote } from '../quoting/python';
import { envOf, fixedText, identOf, plainText, type Value, writeValue } from '../value';
import { indentAll } from './indent';
import { leftOutComments, partContent } from './lines';
import { byQuotePlus, fitObject, type Pair, pairsOf } from './pairs';

// What the targets in Python have in common.

export const pyValue = (value: Value): string => writeValue(value, quote, pyName);

/** Python's names are in small letters, words apart. */
export const pyName = (variable: Variable): string =>
  identOf(variable)
    .replace(/([a-z0-9])([A-Z])/g, '$1_$2')
    .toLowerCase();

/** A header's value; beyond ASCII as its bytes, since text would go out in another encoding. */
export const pyHeader = (value: Value): string =>
  /[^\0-\x7f]/.test(plainText(value))
    ? `${value.length > 1 ? `(${pyValue(value)})` : pyValue(value)}.encode()`
    : pyValue(value);

export const pyVariables = (variables: readonly Variable[]): string[] =>
  variables.map(
    (variable) =>
      `${pyName(variable)} = ${variable.isSecret ? `os.environ[${quote(envOf(variable))}]` : quote(variable.value)}`,
  );

/** The headers as a variable of their own: a map, a list of pairs where names come twice, or call by call. */
export function pyHeaders(plan: Plan, write = pyHeader): string[] {
  const { headers, leftOut } = plan;
  if (headers.length === 0 && leftOut.length === 0) return [];
  const comments = leftOutComments(plan, '#', quote, '    ');
  const repeats = new Set(headers.map(({ name }) => name.toLowerCase())).size < headers.length;
  if (repeats) {
    // One spelling for each name: some clients take another one for another header, which replaces the first.
    const spelling = (name: string): string =>
      headers.find((header) => header.name.toLowerCase() === name.toLowerCase())?.name ?? name;
    return [
      'headers = [',
      ...headers.map(({ name, value }) => `    (${quote(spelling(name))}, ${write(value)}),`),
      ...comments,
      ']',
    ];
  }
  if (plan.options.headers === 'calls') {
    return [
      'headers = {}',
      ...headers.map(({ name, value }) => `headers[${quote(name)}] = ${write(value)}`),
      ...comments.map((line) => line.trim()),
    ];
  }
  return ['headers = {', ...headers.map(({ name, value }) => `    ${quote(name)}: ${write(value)},`), ...comments, '}'];
}

/** What the payload is in Python: an expression, whether it is bytes, and which modules it needs. */
export interface PyBody {
  readonly lines: readonly string[];
  readonly expression: string;
  readonly imports: readonly string[];
}

export function pyBody({ body }: Plan): PyBody | undefined {
  switch (body.type) {
    case 'none':
    case 'parts':
      return undefined;
    case 'bytes':
      return { lines: [], expression: `base64.b64decode('${base64Of(body.bytes)}')`, imports: ['base64'] };
    case 'file':
      return { lines: [], expression: `open(${quote(body.path)}, 'rb').read()`, imports: [] };
    case 'text': {
      const object = pyObject(fixedText(body.value));
      if (object !== undefined) {
        return {
          lines: [`payload = ${object}`],
          expression: `json.dumps(payload, separators=(',', ':'), ensure_ascii=False).encode()`,
          imports: ['json'],
        };
      }
      const text = pyValue(body.value);
      return { lines: [], expression: `${body.value.length > 1 ? `(${text})` : text}.encode()`, imports: [] };
    }
    default:
      return body satisfies never;
  }
}

/** JSON as Python's own lists and maps, where dumping it gives back the very text; undefined elsewhere. */
function pyObject(text: string | undefined): string | undefined {
  if (text === undefined || text.length > 100_000 || !/^[[{]/.test(text)) return undefined;
  try {
    const value: unknown = JSON.parse(text);
    return JSON.stringify(value) === text && isSameInPython(value) ? writeObject(value, '') : undefined;
  } catch {
    return undefined;
  }
}

/** Python writes great and small numbers another way, and escapes what JavaScript leaves. */
function isSameInPython(value: unknown): boolean {
  if (typeof value === 'number')
    return Number.isInteger(value)
      ? Number.isSafeInteger(value) && !Object.is(value, -0)
      : !/e/.test(String(value)) && Math.abs(value) >= 1e-4;
  if (typeof value === 'string') return isTextSame(value);
  if (typeof value !== 'object' || value === null) return true;
  return Object.entries(value).every(([key, member]) => isTextSame(key) && isSameInPython(member));
}

/** DEL is left as it is by one and escaped by the other. */
const isTextSame = (text: string): boolean => text.isWellFormed() && !text.includes('\u007f');

const SHORT_OBJECT = 60;

function writeObject(value: unknown, indent: string): string {
  if (value === null) return 'None';
  if (typeof value === 'boolean') return value ? 'True' : 'False';
  if (typeof value === 'string') return quote(value);
  if (typeof value !== 'object') return JSON.stringify(value);
  const isList = Array.isArray(value);
  const inner = `${indent}    `;
  const members = isList
    ? value.map((item) => writeObject(item, inner))
    : Object.entries(value).map(([key, item]) => `${quote(key)}: ${writeObject(item, inner)}`);
  const [open, close] = isList ? ['[', ']'] : ['{', '}'];
  const line = open + members.join(', ') + close;
  if (members.length === 0 || (line.length <= SHORT_OBJECT && !line.includes('\n'))) return line;
  return `${open}\n${members.map((member) => `${inner}${member},\n`).join('')}${indent}${close}`;
}

/** A form's parts as requests and httpx take them: every one as a file, those without a name for it as None. */
function pyFiles(parts: readonly DraftPart[]): { readonly lines: string[]; readonly imports: string[] } {
  const lines = parts.map((part) => {
    const { name, fileName, contentType } = part;
    const type = contentType === undefined ? '' : `, ${quote(contentType)}`;
    return `    (${quote(name)}, (${fileName === undefined ? 'None' : quote(fileName)}, ${pyPart(part)}${type})),`;
  });
  return { lines: ['files = [', ...lines, ']'], imports: pyPartImports(parts) };
}

/** The content of a form's part: a file beside the code, bytes, or text. */
export function pyPart(part: DraftPart, write = quote): string {
  const { text, base64 } = partContent(part);
  if (text !== undefined) return write(text);
  return base64 === undefined ? `open(${quote(part.fileName ?? part.name)}, 'rb')` : `base64.b64decode('${base64}')`;
}

export const pyPartImports = (parts: readonly DraftPart[]): string[] =>
  parts.some((part) => partContent(part).base64 !== undefined) ? ['base64'] : [];

/** What the clients for Python take alike: the settings that a call names, and its first arguments. */
export interface PyRequest {
  readonly settings: readonly PySetting[];
  readonly args: readonly string[];
  readonly imports: readonly string[];
}

/** Lines that stand before a request, and the variables that they use. */
interface PySetting {
  readonly lines: readonly string[];
  readonly uses: readonly string[];
}

/**
 * A request as requests and httpx take it.
 * @param payload what the client calls its payload
 */
export function pyRequest(plan: Plan, payload: 'data' | 'content', write = pyHeader): PyRequest {
  const query = plan.options.idioms ? pyQuery(plan.address) : undefined;
  const own = plan.options.idioms ? pyOwnBody(plan) : undefined;
  const shown = own === undefined ? plan : { ...plan, headers: plan.headers.filter(({ name }) => !isType(name)) };
  const headers = pyHeaders(shown, write);
  const body = own === undefined ? pyBody(plan) : undefined;
  const files = plan.body.type === 'parts' ? pyFiles(plan.body.parts) : undefined;
  return {
    settings: [
      {
        lines: [`url = ${query === undefined ? pyValue(plan.address) : quote(query.base)}`],
        uses: namesIn(plan.address),
      },
      ...(query === undefined ? [] : [{ lines: [`params = ${query.params}`], uses: [] }]),
      { lines: headers, uses: plan.headers.flatMap(({ value }) => namesIn(value)) },
      { lines: [...(own?.lines ?? body?.lines ?? []), ...(files?.lines ?? [])], uses: [] },
    ],
    args: [
      'url',
      ...(query === undefined ? [] : ['params=params']),
      ...(headers.length > 0 ? ['headers=headers'] : []),
      ...(own === undefined ? [] : [own.argument]),
      ...(body === undefined ? [] : [`${payload}=${body.expression}`]),
      ...(files === undefined ? [] : ['files=files']),
    ],
    imports: [...(body?.imports ?? []), ...(files?.imports ?? [])],
  };
}

const isType = (name: string): boolean => name.toLowerCase() === 'content-type';

/** An address whose query the client makes of names and values; undefined where it would write another one. */
function pyQuery(address: Value): { readonly base: string; readonly params: string } | undefined {
  const text = fixedText(address);
  const at = text?.indexOf('?') ?? -1;
  if (text === undefined || at === -1 || text.includes('#')) return undefined;
  const pairs = pairsOf(text.slice(at + 1), byQuotePlus);
  // Clients differ on blanks, and requests takes an empty value for one that is there.
  if (pairs === undefined || pairs.some((pair) => pair.some((one) => /[ ~]/.test(one)))) return undefined;
  return { base: text.slice(0, at), params: pyPairs(pairs) };
}

const pyPairs = (pairs: readonly Pair[]): string =>
  fitObject(pairs)
    ? `{\n${pairs.map(([name, one]) => `    ${quote(name)}: ${quote(one)},\n`).join('')}}`
    : `[\n${pairs.map(([name, one]) => `    (${quote(name)}, ${quote(one)}),\n`).join('')}]`;

/** A payload as the client makes it of JSON or of a form's fields, with the type that it then gives it. */
function pyOwnBody({
  body,
  contentType,
  warnings,
}: Plan): { readonly lines: string[]; readonly argument: string } | undefined {
  const text = body.type === 'text' ? fixedText(body.value) : undefined;
  const type = contentType === undefined ? '' : plainText(contentType).toLowerCase();
  if (text === undefined) return undefined;
  if (type === 'application/json') {
    const object = pyObject(text);
    if (object === undefined) return undefined;
    warnings.push('The payload goes out as JSON that means the same, with the client’s own blanks and escapes.');
    return { lines: [`payload = ${object}`], argument: 'json=payload' };
  }
  const pairs = type === 'application/x-www-form-urlencoded' ? pairsOf(text, byQuotePlus) : undefined;
  if (pairs === undefined || !fitObject(pairs)) return undefined;
  return { lines: [`payload = ${pyPairs(pairs)}`], argument: 'data=payload' };
}

const namesIn = (value: Value): string[] =>
  value.flatMap((piece) => ('variable' in piece ? [piece.variable.name] : []));

/** A request of a library that has status, json(), text and content, as a file. */
export const pyFile = (plan: Plan, { settings, imports }: PyRequest, call: string, library: string): string[] => [
  ...pyImports(plan, imports, [library]),
  ...pyFunction(plan, [
    ...pyVariables(plan.variables),
    ...settings.flatMap(({ lines }) => lines),
    '',
    `response = ${call}`,
    ...pyAnswer(plan, library === 'httpx'),
  ]),
];

/** The imports in the order that Python's style guide asks for: its own first, others behind a blank line. */
export const pyImports = (plan: Plan, own: readonly string[], others: readonly string[]): string[] =>
  pyImportLines([...own, ...(plan.variables.some(({ isSecret }) => isSecret) ? ['os'] : [])], others);

export function pyImportLines(own: readonly string[], others: readonly string[]): string[] {
  const lines = [...new Set(own)].sort().map((name) => `import ${name}`);
  return [
    ...lines,
    ...(lines.length > 0 && others.length > 0 ? [''] : []),
    ...others.map((name) => `import ${name}`),
    '',
  ];
}

/** Puts lines into a function, where that is asked for. No literal spans lines: they can be indented. */
export const pyFunction = (plan: Plan, lines: readonly string[], head = 'def send():'): string[] =>
  plan.options.asFunction
    ? ['', head, ...indentAll(lines, '    '), '', '', "if __name__ == '__main__':", '    send()']
    : [...lines];

/** What is done with the answer of a library that has status, json(), text and content. */
function pyAnswer(plan: Plan, raisesRedirects: boolean): string[] {
  if (plan.options.prints === 'status') return ['print(response.status_code)'];
  const check =
    raisesRedirects && plan.options.redirects === 'stop'
      ? ['if response.is_error:', '    response.raise_for_status()']
      : ['response.raise_for_status()'];
  if (plan.options.prints === 'file' || plan.answer === 'binary') {
    return [...check, "with open('response', 'wb') as file:", '    file.write(response.content)'];
  }
  return [...check, `print(response.${plan.answer === 'json' ? 'json()' : 'text'})`];
}

/** A call laid out with an argument a line where it is long. */
export function pyCall(name: string, args: readonly string[]): string {
  const line = `${name}(${args.join(', ')})`;
  return line.length <= 88 && !line.includes('\n') ? line : `${name}(\n${args.map((arg) => `    ${arg},\n`).join('')})`;
}
