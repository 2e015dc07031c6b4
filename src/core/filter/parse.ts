import { regexReason } from '../wording';
import { FEW_VALUES, type FieldRef, readField, specOf, UNITS } from './fields';
import type { FilterProblem } from './problem';
import { type Operator, type Token, tokenise } from './tokens';
import type { Filter, Pattern, Value } from './tree';

export type Parsed =
  | { readonly ok: true; readonly filter: Filter }
  | { readonly ok: false; readonly problem: FilterProblem };

/** Parentheses inside one another; deeper ones nobody types. */
const DEPTH_LIMIT = 100;

/**
 * Reads a filter. Grammar, from the loosest: `or`, `and` (also by standing next to one another), `not`, then a term:
 * parentheses, `field op value`, `field in (list)`, a flag, or a bare word, phrase or /expression/ on the address.
 */
export function parseFilter(text: string): Parsed {
  const read = tokenise(text);
  if (!read.ok) return { ok: false, problem: read.problem };
  if (read.tokens.length === 0) return { ok: true, filter: { type: 'everything' } };
  try {
    return { ok: true, filter: new Parser(read.tokens, text.length).parse() };
  } catch (error) {
    if (error instanceof Stop) return { ok: false, problem: error.problem };
    throw error;
  }
}

class Stop extends Error {
  readonly problem: FilterProblem;

  constructor(problem: FilterProblem) {
    super(problem.code);
    this.problem = problem;
  }
}

class Parser {
  readonly #tokens: readonly Token[];
  readonly #length: number;
  #at = 0;
  #depth = 0;

  constructor(tokens: readonly Token[], length: number) {
    this.#tokens = tokens;
    this.#length = length;
  }

  parse(): Filter {
    const filter = this.#or();
    const rest = this.#peek();
    if (rest === undefined) return filter;
    throw new Stop(rest.type === 'close' ? { code: 'unexpected-close', ...placeOf(rest) } : this.#expectedTerm(rest));
  }

  #or(): Filter {
    const parts = [this.#and()];
    while (this.#takeWord('or')) parts.push(this.#and());
    return join('or', parts);
  }

  #and(): Filter {
    const parts = [this.#not()];
    for (;;) {
      if (this.#takeWord('and')) parts.push(this.#not());
      else if (this.#startsTerm()) parts.push(this.#not());
      else return join('and', parts);
    }
  }

  #not(): Filter {
    if (!this.#takeWord('not')) return this.#term();
    this.#deeper();
    const part = this.#not();
    this.#depth--;
    return { type: 'not', part };
  }

  #term(): Filter {
    const token = this.#peek();
    if (token === undefined) throw new Stop(this.#expectedTerm(undefined));
    this.#at++;
    switch (token.type) {
      case 'open':
        return this.#parenthesis(token);
      case 'phrase':
      case 'regex':
        return { type: 'address', pattern: patternOf(token) };
      case 'word':
        return this.#word(token);
      case 'close':
      case 'comma':
      case 'operator':
        this.#at--;
        throw new Stop(this.#expectedTerm(token));
      default:
        return token.type satisfies never;
    }
  }

  #parenthesis(open: Token): Filter {
    this.#deeper();
    const inside = this.#or();
    this.#depth--;
    if (this.#peek()?.type !== 'close') {
      throw new Stop(
        this.#peek() === undefined ? { code: 'expected-close', ...placeOf(open) } : this.#expectedTerm(this.#peek()),
      );
    }
    this.#at++;
    return inside;
  }

  #word(token: Token): Filter {
    const next = this.#peek();
    const isCompared = next?.type === 'operator' || (next?.type === 'word' && isWord(next, 'in') && this.#opensList());
    const field = readField(token.text, token.key);
    if (!isCompared) {
      if (typeof field === 'string') return { type: 'flag', flag: field };
      if (token.key !== undefined)
        throw new Stop({ code: 'expected-value', field: token.text, found: undefined, ...placeOf(token) });
      if (isWord(token, 'and') || isWord(token, 'or')) {
        this.#at--;
        throw new Stop(this.#expectedTerm(token));
      }
      return { type: 'address', pattern: patternOf(token) };
    }
    if (field === undefined) throw new Stop(noSuchField(token));
    if (typeof field === 'string')
      throw new Stop({ code: 'flag-compared', field, from: token.from, to: next?.to ?? token.to });
    this.#at++;
    return next?.type === 'operator' ? this.#comparison(field, next) : this.#list(field);
  }

  /** True where the word at hand is followed by a parenthesis. */
  #opensList(): boolean {
    return this.#tokens[this.#at + 1]?.type === 'open';
  }

  #comparison(field: FieldRef, token: Token): Filter {
    const operator = token.text as Operator;
    checkOperator(field, operator, token);
    return { type: 'compare', field, operator, value: this.#value(field, operator === '=' || operator === '!=') };
  }

  #list(field: FieldRef): Filter {
    this.#at++;
    const values = [this.#value(field, true)];
    while (this.#peek()?.type === 'comma') {
      this.#at++;
      values.push(this.#value(field, true));
    }
    const close = this.#peek();
    if (close?.type !== 'close') {
      throw new Stop({ code: 'expected-list', field: field.name, ...this.#placeOrEnd(close) });
    }
    this.#at++;
    return { type: 'in', field, values };
  }

  /** @param isEqual whether the whole value is asked for, not a part of it */
  #value(field: FieldRef, isEqual: boolean): Value {
    const token = this.#peek();
    if (
      token === undefined ||
      token.type === 'operator' ||
      token.type === 'close' ||
      token.type === 'comma' ||
      token.type === 'open'
    ) {
      throw new Stop({ code: 'expected-value', field: field.name, found: token?.text, ...this.#placeOrEnd(token) });
    }
    this.#at++;
    if (token.type === 'word' && token.text === 'unknown') return { type: 'unknown' };
    const spec = specOf(field.name);
    // What older addresses say.
    if (field.name === 'outcome' && token.text === 'spared') return patternOf({ ...token, text: 'cached' });
    if (spec.type !== 'number') {
      if (isEqual) checkValue(field, token);
      return patternOf(token);
    }
    if (field.name === 'status' && token.type === 'word') {
      if (token.text === 'none') return { type: 'unknown' };
      const hundreds = /^([1-5])xx$/i.exec(token.text)?.[1];
      if (hundreds !== undefined) return { type: 'status-class', hundreds: Number(hundreds) };
    }
    return this.#number(field, token, UNITS[spec.dimension], spec.dimension);
  }

  /** "200ms", "200 ms" or "200": without a unit it is ms, bytes or a count. */
  #number(
    field: FieldRef,
    token: Token,
    units: Readonly<Record<string, number>>,
    dimension: keyof typeof UNITS,
  ): Value {
    const match = /^(-?\d+(?:\.\d+)?|-?\.\d+)([a-z]*)$/i.exec(token.text);
    const wrong = { code: 'not-a-number', field: field.name, dimension, found: token.text, ...placeOf(token) } as const;
    if (token.type !== 'word' || match === null) throw new Stop(wrong);
    let unit = unitOf(units, match[2] ?? '');
    if (unit === undefined) throw new Stop(wrong);
    const next = this.#peek();
    if (unit === '' && next?.type === 'word') {
      const apart = unitOf(units, next.text);
      if (apart !== undefined) {
        unit = apart;
        this.#at++;
      }
    }
    return { type: 'number', amount: Number(match[1]), unit };
  }

  #peek(): Token | undefined {
    return this.#tokens[this.#at];
  }

  #takeWord(word: string): boolean {
    const token = this.#peek();
    if (token === undefined || !isWord(token, word)) return false;
    // "and = 3" would be about a field of that name, which there is none of: the word is meant.
    this.#at++;
    return true;
  }

  #startsTerm(): boolean {
    const token = this.#peek();
    if (token === undefined) return false;
    if (token.type === 'word') return !isWord(token, 'or');
    return token.type === 'open' || token.type === 'phrase' || token.type === 'regex';
  }

  #deeper(): void {
    this.#depth++;
    if (this.#depth > DEPTH_LIMIT) throw new Stop({ code: 'too-deep', ...this.#placeOrEnd(this.#peek()) });
  }

  #expectedTerm(token: Token | undefined): FilterProblem {
    return { code: 'expected-term', found: token?.text, ...this.#placeOrEnd(token) };
  }

  #placeOrEnd(token: Token | undefined): { readonly from: number; readonly to: number } {
    return token === undefined ? { from: this.#length, to: this.#length } : placeOf(token);
  }
}

const placeOf = ({ from, to }: Token): { readonly from: number; readonly to: number } => ({ from, to });

const isWord = (token: Token, word: string): boolean =>
  token.type === 'word' && token.key === undefined && token.text.toLowerCase() === word;

const join = (type: 'and' | 'or', parts: readonly Filter[]): Filter =>
  parts.length === 1 ? (parts[0] as Filter) : { type, parts };

/** The unit as it is written here, whatever its case; "" for none; undefined where the dimension has no such unit. */
function unitOf(units: Readonly<Record<string, number>>, text: string): string | undefined {
  if (text === '') return '';
  return Object.keys(units).find((unit) => unit.toLowerCase() === text.toLowerCase());
}

function patternOf(token: Token): Pattern {
  if (token.type !== 'regex') return { type: 'text', text: token.text };
  try {
    new RegExp(token.text, 'u');
  } catch (error) {
    const reason = regexReason(error);
    throw new Stop({ code: 'bad-regex', reason, ...placeOf(token) });
  }
  return { type: 'regex', source: token.text, ignoresCase: token.ignoresCase };
}

function noSuchField(token: Token): FilterProblem {
  const name = token.text.split('.')[0] ?? token.text;
  const bare = readField(`${name}.x`);
  return typeof bare === 'object' && !token.text.includes('.')
    ? { code: 'needs-name', field: name, ...placeOf(token) }
    : { code: 'unknown-field', name: token.text, ...placeOf(token) };
}

function checkValue(field: FieldRef, token: Token): void {
  const values = FEW_VALUES[field.name];
  if (values === undefined || token.type === 'regex' || values.includes(token.text.toLowerCase())) return;
  throw new Stop({ code: 'unknown-value', field: field.name, found: token.text, values, ...placeOf(token) });
}

function checkOperator(field: FieldRef, operator: Operator, token: Token): void {
  const isText = specOf(field.name).type !== 'number';
  const isOrder = operator === '<' || operator === '<=' || operator === '>' || operator === '>=';
  const isContains = operator === '~' || operator === '!~';
  if (isText && isOrder) throw new Stop({ code: 'no-order', field: field.name, operator, ...placeOf(token) });
  if (!isText && isContains) throw new Stop({ code: 'no-text', field: field.name, operator, ...placeOf(token) });
}
