import type { SyntaxNode } from '@lezer/common';
import type { Variable } from '../draft';
import { callFunction, callMethod, holdsUnknown, memberOf, UNTOLD } from './script-calls';
import { ScriptMarks } from './script-marks';
import { asText, FormParts, FormText, ScriptHeaders, ScriptUrl, Unknown } from './script-objects';

/** What an expression of a script comes to, where it can be told without running it. */
export type Evaluated =
  | { readonly type: 'known'; readonly value: unknown }
  | { readonly type: 'unknown'; readonly source: string };

const known = (value: unknown): Evaluated => ({ type: 'known', value });

const GLOBALS: Readonly<Record<string, unknown>> = { undefined, NaN: Number.NaN, Infinity: Number.POSITIVE_INFINITY };

/**
 * The values of a script's expressions: strings, numbers, objects, lists, sums of them, what well-known functions make of
 * them. What is named becomes a variable's mark, `‹name›`: with its value where the script gives it, as a secret where the
 * environment or something else does. Nothing is run.
 */
export class ScriptValues {
  readonly #text: string;
  readonly #named = new Map<string, Evaluated>();
  readonly #marks = new ScriptMarks();

  constructor(text: string) {
    this.#text = text;
  }

  /** Every variable that a mark stands for. */
  get variables(): readonly Variable[] {
    return [...this.#marks.variables.values()];
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

  /** Does what an assignment says: to a name, to an object's member, to a part of an address. */
  assign(node: SyntaxNode): void {
    const [target, right] = [node.firstChild, node.lastChild];
    if (target === null || right === null) return;
    const isAdded = this.#text.slice(target.to, right.from).trim() === '+=';
    const value = isAdded ? this.#sumOf(target, right, this.#source(node)) : this.evaluate(right);
    if (target.name === 'VariableName') {
      this.#named.set(this.#source(target), value);
      return;
    }
    const member = target.name === 'MemberExpression' ? this.#memberName(target) : undefined;
    if (member === undefined || target.firstChild === null) return;
    const on = this.evaluate(target.firstChild);
    if (on.type !== 'known') return;
    if (on.value instanceof ScriptUrl) on.value.set(member, this.#asPiece(right, value));
    else if (on.value instanceof Map) (on.value as Map<string, unknown>).set(member, toMember(value));
  }

  /** Does what the call of a method changes in a form, in headers or in an address; false where it is none of these. */
  change(callee: SyntaxNode, given: readonly SyntaxNode[]): boolean {
    const { firstChild: target, lastChild: name } = callee;
    const method = name === null ? '' : this.#source(name);
    if (callee.name !== 'MemberExpression' || target === null || !/^(?:append|set|delete|sort)$/.test(method))
      return false;
    const on = this.evaluate(target);
    if (on.type !== 'known') return false;
    const { value } = on;
    if (!(value instanceof FormText || value instanceof FormParts || value instanceof ScriptHeaders)) return false;
    // What a form takes may be a file; names and other values are text.
    return value.call(
      method,
      given.map((one, place) => {
        const evaluated = this.evaluate(one);
        return value instanceof FormParts && place === 1 ? toMember(evaluated) : this.#asPiece(one, evaluated);
      }),
    );
  }

  /** A text with the values of its variables; undefined where one of them has none here. */
  filled(text: string): string | undefined {
    let isWhole = true;
    const whole = text.replace(/‹(\w+)›/g, (mark, name: string) => {
      const variable = this.#marks.variables.get(name);
      if (variable === undefined) return mark;
      if (variable.isSecret) isWhole = false;
      return variable.value;
    });
    return isWhole ? whole : undefined;
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
      case 'AwaitExpression': {
        const inner = node.firstChild?.nextSibling;
        const value = inner == null ? undefined : this.evaluate(inner);
        return value?.type === 'known' ? value : { type: 'unknown', source };
      }
      case 'BinaryExpression':
        return this.#sum(node);
      case 'UnaryExpression':
        return this.#unary(node);
      case 'CallExpression':
      case 'NewExpression':
        return this.#called(node);
      case 'VariableName':
      case 'PropertyDefinition':
        return Object.hasOwn(GLOBALS, source) ? known(GLOBALS[source]) : this.#reference(source);
      case 'MemberExpression':
        return this.#member(node);
      default:
        return { type: 'unknown', source };
    }
  }

  #source(node: SyntaxNode): string {
    return this.#text.slice(node.from, node.to);
  }

  #reference(name: string): Evaluated {
    const found = this.#named.get(name);
    if (found === undefined) return known(this.#marks.of(name, name));
    if (found.type === 'unknown') return known(this.#marks.of(name, found.source));
    // An address is taken apart; what is no text, a mark cannot stand for.
    if (typeof found.value !== 'string' || /^https?:\/\//i.test(found.value)) return found;
    // A value with variables in it is what it is of them.
    return found.value.includes('‹') ? found : known(this.#marks.of(name, name, found.value));
  }

  /** What stands behind the last dot, or between the brackets. */
  #memberName(node: SyntaxNode): string | undefined {
    const last = node.lastChild;
    if (last === null) return undefined;
    if (last.name === 'PropertyName') return this.#source(last);
    const inner = last.prevSibling === null ? undefined : this.evaluate(last.prevSibling);
    return inner?.type === 'known' ? this.filled(asText(inner.value)) : undefined;
  }

  /** `process.env.NAME` and its like are the environment's; of anything else that is not known, somebody's property. */
  #member(node: SyntaxNode): Evaluated {
    const source = this.#source(node);
    const name = this.#memberName(node);
    if (name === undefined || node.firstChild === null) return { type: 'unknown', source };
    const on =
      isNameOf(node.firstChild) && !this.#isKnown(node.firstChild) ? undefined : this.evaluate(node.firstChild);
    const value = on?.type === 'known' ? memberOf(on.value, name) : UNTOLD;
    if (value !== UNTOLD) return known(value);
    return /^[A-Za-z_$][\w$]*$/.test(name) ? known(this.#marks.of(name, source)) : { type: 'unknown', source };
  }

  /** Whether the script says what the first name of `a.b.c` stands for. */
  #isKnown(node: SyntaxNode): boolean {
    let first: SyntaxNode = node;
    while (first.name === 'MemberExpression' && first.firstChild !== null) first = first.firstChild;
    return this.#named.get(this.#source(first))?.type === 'known';
  }

  /** An expression as a part of a text; where it cannot be told, as a variable of that name. */
  #asPiece(node: SyntaxNode, value: Evaluated | undefined): string {
    if (value?.type === 'known' && !holdsUnknown(value.value)) return asText(value.value);
    const source = this.#source(node);
    const called = source.slice(0, 200).split('(', 1)[0] ?? '';
    const name = /([A-Za-z_$][\w$]*)\W*$/.exec(called)?.[1] ?? '';
    return this.#marks.of(name, source);
  }

  #template(node: SyntaxNode): Evaluated {
    let text = '';
    let at = node.from + 1;
    for (let child = node.firstChild; child !== null; child = child.nextSibling) {
      if (child.name !== 'Interpolation') continue;
      const inner = child.firstChild?.nextSibling;
      text +=
        unquoted(this.#text.slice(at, child.from)) + (inner == null ? '' : this.#asPiece(inner, this.evaluate(inner)));
      at = child.to;
    }
    return known(text + unquoted(this.#text.slice(at, node.to - 1)));
  }

  #list(node: SyntaxNode): Evaluated {
    const values: unknown[] = [];
    for (let child = node.firstChild; child !== null; child = child.nextSibling) {
      if (/^[[\],]$/.test(child.name) || child.name.endsWith('Comment')) continue;
      const isSpread = child.name === 'Spread';
      if (isSpread && child.nextSibling !== null) child = child.nextSibling;
      const value = this.evaluate(child);
      const isList = value.type === 'known' && Array.isArray(value.value);
      if (value.type === 'unknown' || (isSpread && !isList)) return { type: 'unknown', source: this.#source(node) };
      values.push(...(isSpread ? (value.value as unknown[]) : [value.value]));
    }
    return known(values);
  }

  /** Own properties, whatever they are called; one whose value cannot be told does not hide the others. */
  #members(node: SyntaxNode): Map<string, unknown> {
    const members = new Map<string, unknown>();
    for (const property of node.getChildren('Property')) {
      const [key, value] = [property.firstChild, property.lastChild];
      if (key === null || value === null) continue;
      if (key.name === 'Spread') {
        const spread = this.evaluate(value);
        if (spread.type === 'known' && spread.value instanceof Map)
          for (const [name, one] of spread.value as Map<string, unknown>) members.set(name, one);
        else members.set(`...${this.#source(value)}`, new Unknown(this.#source(value)));
        continue;
      }
      const name = this.#keyOf(key);
      if (name === undefined) members.set(this.#source(property), new Unknown(this.#source(value)));
      else members.set(name, toMember(this.evaluate(value)));
    }
    return members;
  }

  /** What a property is called; undefined where that is computed of what is not known. */
  #keyOf(key: SyntaxNode): string | undefined {
    const isComputed = key.name === '[' && key.nextSibling !== null;
    if (!isComputed && !/^(?:String|Number)$/.test(key.name)) return this.#source(key);
    const name = this.evaluate(isComputed && key.nextSibling !== null ? key.nextSibling : key);
    return name.type === 'known' ? this.filled(asText(name.value)) : undefined;
  }

  #sum(node: SyntaxNode): Evaluated {
    const [left, right] = [node.firstChild, node.lastChild];
    const source = this.#source(node);
    if (left === null || right === null || this.#text.slice(left.to, right.from).trim() !== '+')
      return { type: 'unknown', source };
    return this.#sumOf(left, right, source);
  }

  #sumOf(left: SyntaxNode, right: SyntaxNode, source: string): Evaluated {
    const [a, b] = [left, right].map((side) => this.evaluate(side));
    const isText = [a, b].some((side) => side?.type === 'known' && typeof side.value === 'string');
    if (isText) return known(this.#asPiece(left, a) + this.#asPiece(right, b));
    const isCounted =
      a?.type === 'known' && b?.type === 'known' && [a, b].every(({ value }) => typeof value === 'number');
    return isCounted ? known((a.value as number) + (b.value as number)) : { type: 'unknown', source };
  }

  #unary(node: SyntaxNode): Evaluated {
    const inner = node.lastChild === null ? undefined : this.evaluate(node.lastChild);
    const sign = node.firstChild === null ? '' : this.#source(node.firstChild);
    if (inner?.type === 'known') {
      const { value } = inner;
      const isText = typeof value === 'string';
      if (sign === 'void') return known(undefined);
      if (sign === '!' && !isText) return known(!value);
      if (typeof value === 'number' && (sign === '-' || sign === '+')) return known(sign === '-' ? -value : value);
    }
    return { type: 'unknown', source: this.#source(node) };
  }

  #called(node: SyntaxNode): Evaluated {
    const unknown: Evaluated = { type: 'unknown', source: this.#source(node) };
    const isNew = node.name === 'NewExpression';
    const callee = isNew ? node.firstChild?.nextSibling : node.firstChild;
    if (callee == null) return unknown;
    const given = argumentsOf(node).map((argument) => toMember(this.evaluate(argument)));
    const name = this.#source(callee).replace(/^(?:window|globalThis|self)\./, '');
    const texts =
      name === 'btoa' ? given.map((one) => (typeof one === 'string' ? (this.filled(one) ?? one) : one)) : given;
    const made = callFunction(name, texts, isNew, this.#marks.variables);
    if (made !== UNTOLD) return known(made);
    if (isNew || callee.name !== 'MemberExpression' || callee.firstChild === null) return unknown;
    const on = this.evaluate(callee.firstChild);
    const method = this.#memberName(callee);
    const result = on.type === 'known' && method !== undefined ? callMethod(on.value, method, given) : UNTOLD;
    return result === UNTOLD ? unknown : known(result);
  }
}

const isNameOf = (node: SyntaxNode): boolean => /^(?:VariableName|MemberExpression|this)$/.test(node.name);

const toMember = (value: Evaluated): unknown => (value.type === 'known' ? value.value : new Unknown(value.source));

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
