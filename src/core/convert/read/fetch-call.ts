import type { SyntaxNode } from '@lezer/common';
import { parser } from '@lezer/javascript';
import { bytesFromText } from '../../content';
import type { NameValue } from '../../model';
import { type DraftPayload, payloadOfBytes } from '../draft';
import type { ReadRequest } from './request';

/** Calls of fetch in JavaScript. Their arguments are read, never run: strings, numbers, objects, JSON.stringify of these. */
export function readFetchCalls(text: string): ReadRequest[] {
  const requests: ReadRequest[] = [];
  parser.parse(text).iterate({
    enter: ({ name, node }) => {
      if (name !== 'CallExpression') return;
      const callee = node.firstChild;
      if (callee === null || !/(^|\.)fetch$/.test(text.slice(callee.from, callee.to))) return;
      const args = argumentsOf(node);
      const [first, second] = args.map((argument) => evaluate(argument, text));
      if (first?.type !== 'known' || typeof first.value !== 'string') return;
      requests.push(requestOf(first.value, second));
    },
  });
  return requests;
}

type Evaluated =
  | { readonly type: 'known'; readonly value: unknown }
  | { readonly type: 'unknown'; readonly source: string };

const argumentsOf = (call: SyntaxNode): SyntaxNode[] => {
  const list = call.getChild('ArgList');
  const found: SyntaxNode[] = [];
  for (let child = list?.firstChild ?? null; child !== null; child = child.nextSibling) {
    if (!/^[(),]$/.test(child.name) && !child.name.endsWith('Comment')) found.push(child);
  }
  return found;
};

const known = (value: unknown): Evaluated => ({ type: 'known', value });

function evaluate(node: SyntaxNode, text: string): Evaluated {
  const source = text.slice(node.from, node.to);
  switch (node.name) {
    case 'String':
      return known(unquoted(source.slice(1, -1)));
    case 'TemplateString':
      return node.getChild('Interpolation') === null
        ? known(unquoted(source.slice(1, -1)))
        : { type: 'unknown', source };
    case 'Number':
      return known(Number(source.replaceAll('_', '')));
    case 'BooleanLiteral':
      return known(source === 'true');
    case 'null':
      return known(null);
    case 'ArrayExpression':
    case 'ObjectExpression':
      return container(node, text);
    case 'ParenthesizedExpression':
      return node.firstChild?.nextSibling == null
        ? { type: 'unknown', source }
        : evaluate(node.firstChild.nextSibling, text);
    case 'BinaryExpression':
      return sum(node, text);
    case 'CallExpression':
    case 'NewExpression':
      return called(node, text);
    default:
      return source === 'undefined' ? known(undefined) : { type: 'unknown', source };
  }
}

function container(node: SyntaxNode, text: string): Evaluated {
  const isList = node.name === 'ArrayExpression';
  const entries: [string, unknown][] = [];
  for (let child = node.firstChild; child !== null; child = child.nextSibling) {
    if (/^[[\]{},]$/.test(child.name) || child.name.endsWith('Comment')) continue;
    const key = child.getChild('PropertyDefinition') ?? child.getChild('String') ?? child.getChild('Number');
    const value = isList ? child : child.lastChild;
    const inner = value === null ? undefined : evaluate(value, text);
    if (inner?.type !== 'known' || (!isList && key === null))
      return { type: 'unknown', source: text.slice(node.from, node.to) };
    const name = key === null ? String(entries.length) : text.slice(key.from, key.to);
    entries.push([/^['"]/.test(name) ? unquoted(name.slice(1, -1)) : name, inner.value]);
  }
  // Own properties, whatever they are called.
  return known(isList ? entries.map(([, value]) => value) : new Map(entries));
}

function sum(node: SyntaxNode, text: string): Evaluated {
  const [left, right] = [node.firstChild, node.lastChild].map((side) =>
    side === null ? undefined : evaluate(side, text),
  );
  const isSum = text.slice(node.firstChild?.to ?? 0, node.lastChild?.from ?? 0).trim() === '+';
  if (isSum && left?.type === 'known' && right?.type === 'known' && typeof left.value === 'string') {
    return known(left.value + String(right.value));
  }
  return { type: 'unknown', source: text.slice(node.from, node.to) };
}

function called(node: SyntaxNode, text: string): Evaluated {
  const source = text.slice(node.from, node.to);
  const [argument] = argumentsOf(node).map((one) => evaluate(one, text));
  if (argument?.type !== 'known') return { type: 'unknown', source };
  if (/^JSON\.stringify\(/.test(source)) return known(JSON.stringify(plain(argument.value)));
  if (/^new\s+(Headers)\(/.test(source)) return argument;
  if (/^new\s+URLSearchParams\(/.test(source)) {
    const pairs = pairsOf(argument.value).map(({ name, value }): [string, string] => [name, value]);
    return known(typeof argument.value === 'string' ? argument.value : new URLSearchParams(pairs).toString());
  }
  return { type: 'unknown', source };
}

/** Maps as the objects that they stand for. */
function plain(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(plain);
  if (!(value instanceof Map)) return value;
  const object: Record<string, unknown> = Object.create(null) as Record<string, unknown>;
  for (const [key, member] of value as Map<string, unknown>) object[key] = plain(member);
  return object;
}

const pairsOf = (value: unknown): NameValue[] =>
  value instanceof Map
    ? [...(value as Map<string, unknown>)].map(([name, one]) => ({ name, value: String(one) }))
    : Array.isArray(value)
      ? value.flatMap((pair: unknown) =>
          Array.isArray(pair) ? [{ name: String(pair[0]), value: String(pair[1]) }] : [],
        )
      : [];

function requestOf(url: string, init: Evaluated | undefined): ReadRequest {
  const notes: string[] = [];
  const members =
    init?.type === 'known' && init.value instanceof Map
      ? (init.value as Map<string, unknown>)
      : new Map<string, unknown>();
  if (init?.type === 'unknown')
    notes.push(`Of the second argument only its source is known: ${init.source.slice(0, 80)}.`);
  const headers = pairsOf(members.get('headers'));
  const referrer = members.get('referrer');
  if (typeof referrer === 'string' && /^https?:/.test(referrer)) headers.push({ name: 'Referer', value: referrer });
  const body = members.get('body');
  let payload: DraftPayload = { type: 'none' };
  if (typeof body === 'string') {
    const contentType = headers.find(({ name }) => name.toLowerCase() === 'content-type');
    if (contentType === undefined) headers.push({ name: 'Content-Type', value: 'text/plain;charset=UTF-8' });
    payload = payloadOfBytes(bytesFromText(body), contentType?.value);
  }
  if (members.get('credentials') === 'include')
    notes.push('The page’s cookies go with it: they do not stand in the call.');
  for (const name of members.keys()) {
    if (!/^(method|headers|body|referrer|credentials)$/.test(name))
      notes.push(`"${name}" is the browser’s business, and is left out.`);
  }
  return { method: String(members.get('method') ?? 'GET'), url, headers, payload, wantsCompressed: true, notes };
}

const ESCAPES: Readonly<Record<string, string>> = {
  n: '\n',
  r: '\r',
  t: '\t',
  b: '\b',
  f: '\f',
  v: '\u000b',
  '0': '\0',
};

/** The text that a literal stands for (ECMA-262, 12.9.4). */
const unquoted = (body: string): string =>
  body.replace(
    /\\(?:u\{([0-9a-fA-F]+)\}|u([0-9a-fA-F]{4})|x([0-9a-fA-F]{2})|(\r\n|[\n\r\u2028\u2029])|([\s\S]))/g,
    (_, braced?: string, four?: string, two?: string, line?: string, one?: string) => {
      const code = braced ?? four ?? two;
      if (code !== undefined)
        return braced === undefined
          ? String.fromCharCode(Number.parseInt(code, 16))
          : String.fromCodePoint(Math.min(0x10ffff, Number.parseInt(code, 16)));
      return line !== undefined ? '' : (ESCAPES[one ?? ''] ?? one ?? '');
    },
  );
