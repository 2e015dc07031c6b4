import { base64Of, textFromBytes } from '../../content';
import type { DraftPart, Variable } from '../draft';
import { bodyText, type Plan, type PlanBody, type PlanHeader } from '../plan';
import { quoteJavaScript as quote } from '../quoting/javascript';
import { envOf, identOf, plainText, type Value, writeValue } from '../value';
import { commentLine } from './comment';
import { indentAll } from './indent';
import { byUrlSearchParams, fitObject, pairsOf } from './pairs';

// What the targets in JavaScript have in common.

/** Where code runs: only Node has an environment, files and Buffer. */
export type Place = 'browser' | 'node';

export const jsValue = (value: Value): string => writeValue(value, quote, identOf);

/** Header values as fetch and Node take them: one character a byte, so what is beyond ASCII is written as its UTF-8. */
export const jsHeader = (value: Value): string =>
  writeValue(
    value,
    (text) =>
      quote(Array.from(new TextEncoder().encode(text), (byte) => String.fromCharCode(byte)).join('')).replace(
        /[^\0-\x7f]/g,
        (character) => `\\x${character.charCodeAt(0).toString(16)}`,
      ),
    identOf,
  );

/** Declarations of the variables that a plan uses. */
export const jsVariables = (variables: readonly Variable[], place: Place): string[] =>
  variables.map((variable) =>
    variable.isSecret
      ? place === 'node'
        ? `const ${identOf(variable)} = process.env.${envOf(variable)};`
        : `const ${identOf(variable)} = prompt(${quote(envOf(variable))});`
      : `const ${identOf(variable)} = ${quote(variable.value)};`,
  );

/** The lines of a map of headers, without its braces. */
export function jsHeaderLines(plan: Plan, indent: string, write = jsHeader): string[] {
  return [
    ...plan.headers.map(({ name, value }) => `${indent}${jsKey(name)}: ${write(value)},`),
    ...plan.leftOut.map(({ name, value, reason }) =>
      commentLine('//', `${jsKey(name)}: ${quote(value)}, left out: ${reason}`, indent),
    ),
  ];
}

/** A key of an object in the code. Written plainly, __proto__ would set the object's prototype (ECMA-262 B.3.1). */
export const jsKey = (name: string): string =>
  name === '__proto__' ? `['__proto__']` : /^(?:[A-Za-z_$][\w$]*|0|[1-9]\d{0,14})$/.test(name) ? name : quote(name);

export const mapOfHeaders = (plan: Plan, indent: string): string[] =>
  plan.headers.length === 0 && plan.leftOut.length === 0
    ? []
    : [`${indent}headers: {`, ...jsHeaderLines(plan, `${indent}  `), `${indent}},`];

/** Calls on an object of headers, one a header. */
export const callsOfHeaders = (headers: readonly PlanHeader[], call: string): string[] =>
  headers.map(({ name, value }) => `${call}(${quote(name)}, ${jsHeader(value)});`);

/** JSON as an object in the code, where JSON.stringify gives back the very text; undefined elsewhere. */
export function jsObject(text: string | undefined, indent: string): string | undefined {
  if (text === undefined || text.length > 100_000 || !/^[[{]/.test(text) || text.includes('__proto__'))
    return undefined;
  try {
    const value: unknown = JSON.parse(text);
    return JSON.stringify(value) === text ? writeObject(value, indent) : undefined;
  } catch {
    return undefined;
  }
}

const SHORT_OBJECT = 60;

function writeObject(value: unknown, indent: string): string {
  if (typeof value === 'string') return quote(value);
  // Formatters write 1e+21 without its plus.
  if (typeof value !== 'object' || value === null) return JSON.stringify(value).replace('e+', 'e');
  const isList = Array.isArray(value);
  const inner = `${indent}  `;
  const members = isList
    ? value.map((item) => writeObject(item, inner))
    : Object.entries(value).map(([key, item]) => `${jsKey(key)}: ${writeObject(item, inner)}`);
  const [open, close] = isList ? ['[', ']'] : ['{', '}'];
  if (members.length === 0) return open + close;
  const line = isList ? `[${members.join(', ')}]` : `{ ${members.join(', ')} }`;
  if (line.length <= SHORT_OBJECT && !line.includes('\n')) return line;
  return `${open}\n${members.map((member) => `${inner}${member},\n`).join('')}${indent}${close}`;
}

/**
 * The payload as an expression; undefined where there is none. Forms of parts are built in lines before it.
 * @param asFields a form is made of its fields, where that comes to the same
 */
export function jsBody(
  body: PlanBody,
  place: Place,
  indent: string,
  asFields = false,
): { readonly lines: string[]; readonly expression: string } | undefined {
  switch (body.type) {
    case 'none':
      return undefined;
    case 'text': {
      const fields = asFields ? jsFields(bodyText(body) ?? '', indent) : undefined;
      if (fields !== undefined) return { lines: [], expression: fields };
      const object = jsObject(bodyText(body), indent);
      return { lines: [], expression: object === undefined ? jsValue(body.value) : `JSON.stringify(${object})` };
    }
    case 'bytes':
      return { lines: [], expression: jsBytes(body.bytes, place) };
    case 'file':
      return place === 'node'
        ? { lines: [], expression: `await readFile(${quote(body.path)})` }
        : { lines: [], expression: `await (await fetch(${quote(body.path)})).blob()` };
    case 'parts':
      return { lines: jsForm(body, place), expression: 'form' };
    default:
      return body satisfies never;
  }
}

/** Whether a payload is to be made of a form's fields: it is one, and says so. */
export const isForm = ({ options, contentType }: Plan): boolean =>
  options.idioms && /^application\/x-www-form-urlencoded\b/i.test(plainText(contentType ?? []));

/** A form's fields as what writes them; undefined where that would write another text. */
function jsFields(text: string, indent: string): string | undefined {
  const pairs = pairsOf(text, byUrlSearchParams);
  if (pairs === undefined) return undefined;
  const inner = `${indent}  `;
  const fields = fitObject(pairs)
    ? `{\n${pairs.map(([name, one]) => `${inner}${jsKey(name)}: ${quote(one)},\n`).join('')}${indent}}`
    : `[\n${pairs.map(([name, one]) => `${inner}[${quote(name)}, ${quote(one)}],\n`).join('')}${indent}]`;
  return `new URLSearchParams(${fields})`;
}

/** Bytes as an expression. */
export const jsBytes = (bytes: Uint8Array, place: Place): string =>
  place === 'node'
    ? `Buffer.from('${base64Of(bytes)}', 'base64')`
    : `Uint8Array.from(atob('${base64Of(bytes)}'), (character) => character.charCodeAt(0))`;

function jsForm({ parts }: Extract<PlanBody, { readonly type: 'parts' }>, place: Place): string[] {
  const lines = ['const form = new FormData();'];
  for (const { name, fileName, contentType, bytes } of parts) {
    const text = bytes === undefined ? undefined : readText(bytes);
    if (fileName === undefined && contentType === undefined && text !== undefined) {
      lines.push(`form.append(${quote(name)}, ${quote(text)});`);
      continue;
    }
    const type = contentType === undefined ? '' : `, { type: ${quote(contentType)} }`;
    const content =
      bytes === undefined
        ? place === 'node'
          ? `await readFile(${quote(fileName ?? name)})`
          : `await (await fetch(${quote(fileName ?? name)})).blob()`
        : text === undefined
          ? jsBytes(bytes, place)
          : quote(text);
    lines.push(`form.append(${quote(name)}, new Blob([${content}]${type}), ${quote(fileName ?? name)});`);
  }
  return lines;
}

/** Whether FormData can be these parts: its files always have a type, its fields never, and their line ends become CR LF. */
export const fitsFormData = (parts: readonly DraftPart[]): boolean =>
  parts.every(({ fileName, contentType, bytes }) =>
    fileName === undefined
      ? contentType === undefined && bytes !== undefined && readText(bytes) !== undefined
      : contentType !== undefined || bytes === undefined,
  );

/** Text that lies in bytes, with line ends that no form changes; undefined where it is none. */
export function readText(bytes: Uint8Array): string | undefined {
  const text = textFromBytes(bytes);
  return text === undefined || /\r(?!\n)|(?<!\r)\n/.test(text) ? undefined : text;
}

/** Whether code reads files beside it. */
export const readsFiles = ({ body }: Plan): boolean =>
  body.type === 'file' || (body.type === 'parts' && body.parts.some(({ bytes }) => bytes === undefined));

/** What is done with the answer of a fetch. */
export function fetchAnswer(plan: Plan, place: Place): string[] {
  const { prints } = plan.options;
  if (prints === 'status') return ['console.log(response.status, response.statusText);'];
  // A redirect that it stops at is no success, and no failure either.
  const isFailure = plan.options.redirects === 'stop' ? 'response.status >= 400' : '!response.ok';
  const check = `if (${isFailure}) throw new Error(\`\${response.status} \${response.statusText}\`);`;
  if (prints === 'file' || plan.answer === 'binary') {
    return place === 'node'
      ? [check, `await writeFile('response', Buffer.from(await response.arrayBuffer()));`]
      : [check, 'const body = await response.blob();', 'console.log(body);'];
  }
  return [check, `console.log(await response.${plan.answer === 'json' ? 'json' : 'text'}());`];
}

/** The imports from Node's files that a plan needs. */
export function fileImports(plan: Plan, writes = plan.options.prints === 'file' || plan.answer === 'binary'): string[] {
  const names = [
    ...(readsFiles(plan) ? ['readFile'] : []),
    ...(writes && plan.options.prints !== 'status' ? ['writeFile'] : []),
  ];
  return names.length === 0 ? [] : [`import { ${names.join(', ')} } from 'node:fs/promises';`];
}

/** Puts lines into a function of the name, where that is asked for. No literal here spans lines: they can be indented. */
export const jsFunction = (plan: Plan, lines: readonly string[], name = 'send'): string[] =>
  plan.options.asFunction ? [`export async function ${name}() {`, ...indentAll(lines, '  '), '}'] : [...lines];
