import type { WrittenJson } from './python-json';

type Step =
  | { readonly kind: 'name'; readonly name: string }
  | { readonly kind: 'index'; readonly index: number }
  | { readonly kind: 'append' };

/**
 * The payload that items of the http command come to: `name`, `name[inner]`, `list[]`, `list[2]`, or brackets from the start
 * (its manual, Nested JSON).
 */
export class NestedItems {
  #whole: WrittenJson | undefined;

  get whole(): WrittenJson | undefined {
    return this.#whole;
  }

  /** Puts a value where an item's name says; false where the name cannot be read, or something else is in its way. */
  put(name: string, value: WrittenJson): boolean {
    const steps = readSteps(name);
    const whole = steps === undefined ? undefined : putInto(this.#whole, steps, value);
    if (whole === undefined) return false;
    this.#whole = whole;
    return true;
  }
}

/** Puts a value into a container, which is made where there is none; undefined where another kind of value stands there. */
function putInto(into: WrittenJson | undefined, steps: readonly Step[], value: WrittenJson): WrittenJson | undefined {
  const [step, ...rest] = steps;
  if (step === undefined) return value;
  const holder = into === undefined || into === 'null' ? (step.kind === 'name' ? new Map() : []) : into;
  if (step.kind === 'name') {
    if (!(holder instanceof Map)) return undefined;
    const members = holder as Map<string, WrittenJson>;
    const inner = putInto(rest.length === 0 ? undefined : members.get(step.name), rest, value);
    return inner === undefined ? undefined : members.set(step.name, inner);
  }
  if (!Array.isArray(holder)) return undefined;
  const list = holder as WrittenJson[];
  const at = step.kind === 'append' ? list.length : step.index;
  if (at > list.length + MOST_EMPTY) return undefined;
  const inner = putInto(rest.length === 0 ? undefined : list[at], rest, value);
  if (inner === undefined) return undefined;
  while (list.length < at) list.push('null');
  list[at] = inner;
  return list;
}

/** The most elements that an index may leave empty before it: more is no request that somebody writes. */
const MOST_EMPTY = 1000;

/** A name taken apart at its brackets; a backslash takes the meaning of a bracket, of itself, and of a number. */
function readSteps(name: string): Step[] | undefined {
  const tokens = tokensOf(name);
  if (tokens.length === 0) return [{ kind: 'name', name: '' }];
  const steps: Step[] = [];
  let at = 0;
  const first = tokens[0];
  if (first?.type === 'text' || first?.type === 'number') {
    steps.push({ kind: 'name', name: first.text });
    at = 1;
  }
  while (at < tokens.length) {
    const [open, inner, close] = tokens.slice(at, at + 3);
    if (open?.type !== '[') return undefined;
    if (inner?.type === ']') {
      steps.push({ kind: 'append' });
      at += 2;
      continue;
    }
    if (inner === undefined || inner.type === '[' || close?.type !== ']') return undefined;
    // What is outermost is a list where it begins with brackets.
    if (at === 0 && inner.type === 'text') return undefined;
    const index = inner.type === 'number' ? Number(inner.text) : undefined;
    if (index !== undefined && index < 0) return undefined;
    steps.push(index === undefined ? { kind: 'name', name: inner.text } : { kind: 'index', index });
    at += 3;
  }
  return steps;
}

interface Token {
  readonly type: '[' | ']' | 'text' | 'number';
  readonly text: string;
}

function tokensOf(name: string): Token[] {
  const tokens: Token[] = [];
  let text = '';
  let hasEscape = false;
  const end = (): void => {
    if (text !== '') {
      const isNumber = !hasEscape && /^[+-]?\d+$/.test(text);
      const isEscapedNumber = !hasEscape && /^\\[+-]?\d+$/.test(text);
      tokens.push({ type: isNumber ? 'number' : 'text', text: isEscapedNumber ? text.slice(1) : text });
    }
    text = '';
    hasEscape = false;
  };
  for (let at = 0; at < name.length; at++) {
    const character = name[at] ?? '';
    if (character === '[' || character === ']') {
      end();
      tokens.push({ type: character, text: character });
    } else if (character === '\\' && at + 1 < name.length) {
      const next = name[++at] ?? '';
      if (/[[\]\\]/.test(next)) hasEscape = true;
      else text += character;
      text += next;
    } else text += character;
  }
  end();
  return tokens;
}
