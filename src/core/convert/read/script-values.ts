import type { SyntaxNode } from '@lezer/common';
import { bytesFromText } from '../../content';
import type { NameValue } from '../../model';
import type { DraftPart, Variable } from '../draft';
import { betweenMarks } from '../value';

/** What an expression of a script comes to, where it can be told without running it. */
export type Evaluated =
  | { readonly type: 'known'; readonly value: unknown }
  | { readonly type: 'unknown'; readonly source: string };

/** Values that only their text tells apart: a form says another media type than a string does. */
export class FormText {
  constructor(readonly text: string) {}
}

/** A form of parts that a script fills call by call. */
export class FormParts {
  readonly parts: DraftPart[] = [];
}

const known = (value: unknown): Evaluated => ({ type: 'known', value });

/**
 * The values of a script's expressions: strings, numbers, objects, lists, sums of them, what JSON.stringify makes of
 * them. What is named becomes a variable's mark, `‹name›`: with its value where the script gives it, as a secret where
 * the environment or something else does. Nothing is run.
 */
export class ScriptValues {
  readonly #text: string;
  readonly #named = new Map<string, Evaluated>();
  readonly #variables = new Map<string, Variable>();

  constructor(text: string) {
    this.#text = text;
  }

  /** Every variable that a mark stands for. */
  get variables(): readonly Variable[] {
    return [...this.#variables.values()];
  }

  /** Remembers what a declaration gives a name to. */
  declare(declaration: SyntaxNode): void {
    let name: string | undefined;
    for (let child = declaration.firstChild; child !== null; child = child.nextSibling) {
      if (child.name === 'VariableDefinition') name = this.#source(child);
      else if (name !== undefined && !/^(Equals|,|;)$/.test(child.name)) {
        this.#named.set(name, this.evaluate(child));
        name = undefined;
      }
    }
  }

  /** Adds a field to a form that a name stands for. */
  appendTo(name: string, field: unknown, value: unknown): void {
    const form = this.#named.get(name);
    if (form?.type !== 'known' || !(form.value instanceof FormParts) || typeof field !== 'string') return;
    const isText = typeof value === 'string' || typeof value === 'number';
    form.value.parts.push(
      isText
        ? { name: field, fileName: undefined, contentType: undefined, bytes: bytesFromText(String(value)) }
        : { name: field, fileName: field, contentType: undefined, bytes: undefined },
    );
  }

  evaluate(node: SyntaxNode): Evaluated {
    const source = this.#source(node);
    switch (node.name) {
      case 'String':
        return known(unquoted(source.slice(1, -1)));
      case 'TemplateString':
        return this.#template(node);
      case 'Number':
        return known(Number(source.replaceAll('_', '')));
      case 'BooleanLiteral':
        return known(source === 'true');
      case 'null':
        return known(null);
      case 'ArrayExpression':
        return this.#list(node);
      case 'ObjectExpression':
        return known(this.#members(node));
      case 'ParenthesizedExpression':
        return node.firstChild?.nextSibling == null
          ? { type: 'unknown', source }
          : this.evaluate(node.firstChild.nextSibling);
      case 'BinaryExpression':
        return this.#sum(node);
      case 'CallExpression':
      case 'NewExpression':
        return this.#called(node);
      case 'VariableName':
      case 'PropertyDefinition':
        return source === 'undefined' ? known(undefined) : this.#reference(source);
      case 'MemberExpression':
        return this.#member(source);
      default:
        return { type: 'unknown', source };
    }
  }

  #source(node: SyntaxNode): string {
    return this.#text.slice(node.from, node.to);
  }

  #reference(name: string): Evaluated {
    const found = this.#named.get(name);
    if (found === undefined || found.type === 'unknown') return this.#mark(name, '', true);
    // An address is taken apart; what is no text, a mark cannot stand for.
    if (typeof found.value !== 'string' || /^https?:\/\//i.test(found.value)) return found;
    // A value that is a mark itself only gives it another name.
    return /^‹\w+›$/.test(found.value) ? found : this.#mark(name, found.value, false);
  }

  /** `process.env.NAME` and its like are the environment's, anything else somebody's property. */
  #member(source: string): Evaluated {
    const last = /(?:\.|\[\s*['"])([A-Za-z_$][\w$]*)(?:['"]\s*\])?$/.exec(source)?.[1];
    return last === undefined ? { type: 'unknown', source } : this.#mark(last, '', true);
  }

  #mark(given: string, value: string, isSecret: boolean): Evaluated {
    const plain = given.replace(/^[^A-Za-z]+|[^A-Za-z0-9_]/g, '');
    const name = plain === '' ? 'value' : plain;
    if (!this.#variables.has(name)) this.#variables.set(name, { name, value, isSecret });
    return known(`‹${name}›`);
  }

  #template(node: SyntaxNode): Evaluated {
    const source = this.#source(node);
    let text = '';
    let at = node.from + 1;
    for (let child = node.firstChild; child !== null; child = child.nextSibling) {
      if (child.name !== 'Interpolation') continue;
      const inner = child.firstChild?.nextSibling;
      const value = inner == null ? undefined : this.evaluate(inner);
      if (value?.type !== 'known' || typeof value.value === 'object') return { type: 'unknown', source };
      text += unquoted(this.#text.slice(at, child.from)) + String(value.value);
      at = child.to;
    }
    return known(text + unquoted(this.#text.slice(at, node.to - 1)));
  }

  #list(node: SyntaxNode): Evaluated {
    const values: unknown[] = [];
    for (let child = node.firstChild; child !== null; child = child.nextSibling) {
      if (/^[[\],]$/.test(child.name) || child.name.endsWith('Comment')) continue;
      const value = this.evaluate(child);
      if (value.type === 'unknown') return { type: 'unknown', source: this.#source(node) };
      values.push(value.value);
    }
    return known(values);
  }

  /** Own properties, whatever they are called; one whose value cannot be told does not hide the others. */
  #members(node: SyntaxNode): Map<string, unknown> {
    const members = new Map<string, unknown>();
    for (const property of node.getChildren('Property')) {
      const key = property.getChild('PropertyDefinition') ?? property.getChild('String') ?? property.getChild('Number');
      const value = property.lastChild;
      if (property.getChild('Spread') !== null && value !== null) {
        const spread = this.evaluate(value);
        if (spread.type === 'known' && spread.value instanceof Map)
          for (const [name, one] of spread.value as Map<string, unknown>) members.set(name, one);
        continue;
      }
      if (key === null || value === null) continue;
      const name = this.#source(key);
      const evaluated = this.evaluate(value);
      members.set(
        /^['"]/.test(name) ? unquoted(name.slice(1, -1)) : name,
        evaluated.type === 'known' ? evaluated.value : new Unknown(evaluated.source),
      );
    }
    return members;
  }

  #sum(node: SyntaxNode): Evaluated {
    const [left, right] = [node.firstChild, node.lastChild].map((side) =>
      side === null ? undefined : this.evaluate(side),
    );
    const isSum = this.#text.slice(node.firstChild?.to ?? 0, node.lastChild?.from ?? 0).trim() === '+';
    const isText = left?.type === 'known' && right?.type === 'known' && typeof left.value === 'string';
    return isSum && isText ? known(left.value + String(right.value)) : { type: 'unknown', source: this.#source(node) };
  }

  #called(node: SyntaxNode): Evaluated {
    const source = this.#source(node);
    const callee = /^(?:new\s+)?([\w.]+)\s*\(/.exec(source)?.[1] ?? '';
    if (callee === 'FormData') return known(new FormParts());
    const [argument, base] = argumentsOf(node);
    const value = argument === undefined ? undefined : this.evaluate(argument);
    const from = node.name === 'NewExpression' ? undefined : node.firstChild;
    if (from?.name === 'MemberExpression' && /\.toString$/.test(this.#source(from)) && from.firstChild !== null) {
      const inner = this.evaluate(from.firstChild);
      return inner.type === 'known' && inner.value instanceof FormText ? known(inner.value.text) : inner;
    }
    if (value?.type !== 'known' || holdsUnknown(value.value)) return { type: 'unknown', source };
    switch (callee) {
      case 'JSON.stringify':
        return known(JSON.stringify(plain(value.value)));
      case 'String':
        return known(String(value.value));
      case 'encodeURIComponent':
        return known(encodeBetweenMarks(String(value.value)));
      case 'URL': {
        const from2 = base === undefined ? undefined : this.evaluate(base);
        if (from2?.type !== 'known' || typeof value.value !== 'string' || typeof from2.value !== 'string') return value;
        // The marks of variables are no part of an address yet: those are only put side by side.
        const isMarked = `${value.value}${from2.value}`.includes('‹');
        return known(isMarked ? joinUrl(from2.value, value.value) : joinedUrl(value.value, from2.value));
      }
      case 'Headers':
        return value;
      case 'URLSearchParams':
        return known(new FormText(formOf(value.value)));
      default:
        return { type: 'unknown', source };
    }
  }
}

const joinUrl = (base: string, path: string): string =>
  base.replace(/\/+$/, '') + (path.startsWith('/') ? path : `/${path}`);

function joinedUrl(path: string, base: string): string {
  try {
    return new URL(path, base).href;
  } catch {
    return joinUrl(base, path);
  }
}

/** A member whose value cannot be told. */
export class Unknown {
  constructor(readonly source: string) {}
}

const holdsUnknown = (value: unknown): boolean =>
  value instanceof Unknown ||
  (Array.isArray(value) && value.some(holdsUnknown)) ||
  (value instanceof Map && [...(value as Map<string, unknown>).values()].some(holdsUnknown));

const encodeBetweenMarks = (text: string): string =>
  betweenMarks(text, (piece) => encodeURIComponent(piece.toWellFormed()));

/** A form's fields as they go on the wire (URL Standard, 5.2), marks left as they are. */
function formOf(value: unknown): string {
  if (typeof value === 'string') return value.replace(/^\?/, '');
  const encode = (text: string): string =>
    betweenMarks(text, (piece) => new URLSearchParams([['', piece]]).toString().slice(1));
  return pairsOf(value)
    .map((pair) => `${encode(pair.name)}=${encode(pair.value)}`)
    .join('&');
}

/** Maps as the objects that they stand for. */
function plain(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(plain);
  if (!(value instanceof Map)) return value;
  const object: Record<string, unknown> = Object.create(null) as Record<string, unknown>;
  for (const [key, member] of value as Map<string, unknown>) object[key] = plain(member);
  return object;
}

/** Names and values of an object, or of a list of pairs; members that cannot be told are left out. */
export const pairsOf = (value: unknown): NameValue[] =>
  value instanceof Map
    ? [...(value as Map<string, unknown>)].flatMap(([name, one]) =>
        one instanceof Unknown ? [] : [{ name, value: String(one) }],
      )
    : Array.isArray(value)
      ? value.flatMap((pair: unknown) =>
          Array.isArray(pair) ? [{ name: String(pair[0]), value: String(pair[1]) }] : [],
        )
      : [];

/** The arguments of a call, in their order. */
export function argumentsOf(call: SyntaxNode): SyntaxNode[] {
  const list = call.getChild('ArgList');
  const found: SyntaxNode[] = [];
  for (let child = list?.firstChild ?? null; child !== null; child = child.nextSibling) {
    if (!/^[(),]$/.test(child.name) && !child.name.endsWith('Comment')) found.push(child);
  }
  return found;
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
