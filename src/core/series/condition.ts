import type { LoopFields } from '../convert';
import { type JsonSteps, parseJson, readPath, textAt, writePath } from '../json';
import { type HeldResponse, holdAgainst } from '../trial';

const COMPARISONS = ['<=', '>=', '!=', '=', '<', '>', '~'] as const;
type Comparison = (typeof COMPARISONS)[number];

/** What a watch waits for. */
export type Condition =
  | { readonly type: 'status'; readonly comparison: Comparison; readonly value: string }
  | { readonly type: 'place'; readonly at: JsonSteps; readonly comparison: Comparison; readonly value: string }
  /** The place, or the whole response where there is none, says something else than at first. */
  | { readonly type: 'changes'; readonly at: JsonSteps | undefined }
  | { readonly type: 'appears'; readonly at: JsonSteps };

const EXAMPLES = '"status = 200", "$.price < 30", "$.hut.free changes", "$.items[0] is there" or "changes"';

/** A condition from its text; what is wrong with it, in a sentence. */
export function readCondition(text: string): Condition | string {
  const given = text.trim();
  if (/^changes$/i.test(given)) return { type: 'changes', at: undefined };
  const [, word] = /\s(changes|is there)$/i.exec(given) ?? [];
  if (word !== undefined) {
    const at = placeOf(given.slice(0, -word.length));
    if (at === undefined) return `Before "${word}" stands a place like $.price.`;
    return /changes/i.test(word) ? { type: 'changes', at } : { type: 'appears', at };
  }
  const split = splitComparison(given);
  if (split === undefined) return `A condition is like ${EXAMPLES}.`;
  const { left, comparison, value } = split;
  if (value === '') return `Behind ${comparison} stands what it is compared with.`;
  if (/^[<>]/.test(comparison) && Number.isNaN(Number(value))) return `Behind ${comparison} stands a number.`;
  if (/^status$/i.test(left)) {
    if (comparison !== '~' && !/^\d{3}$/.test(value))
      return 'A status is a number of three digits, like status = 200; any that succeeded is status < 300.';
    return { type: 'status', comparison, value };
  }
  const at = placeOf(left);
  return at === undefined
    ? `Before ${comparison} stands "status", or a place like $.price.`
    : { type: 'place', at, comparison, value };
}

/** A place begins with $; EACH is no place of one value. */
function placeOf(text: string): JsonSteps | undefined {
  const at = text.trim().startsWith('$') ? readPath(text.trim()) : undefined;
  return at?.every((step) => typeof step !== 'symbol') === true ? at : undefined;
}

/** A comparison's sides: the first that stands outside of brackets and quotes. */
function splitComparison(
  text: string,
): { readonly left: string; readonly comparison: Comparison; readonly value: string } | undefined {
  let quote = '';
  for (let at = 0; at < text.length; at++) {
    const character = text.charAt(at);
    if (quote !== '') {
      if (character === '\\') at++;
      else if (character === quote) quote = '';
    } else if (character === '"' || character === "'") quote = character;
    else {
      const comparison = COMPARISONS.find((one) => text.startsWith(one, at));
      if (comparison !== undefined)
        return {
          left: text.slice(0, at).trim(),
          comparison,
          value: unquoted(text.slice(at + comparison.length).trim()),
        };
    }
  }
  return undefined;
}

function unquoted(text: string): string {
  const value = /^".*"$/s.test(text) ? parseJson(text) : undefined;
  return typeof value === 'string' ? value : text;
}

/** What a response says to a condition. */
export interface Judged {
  readonly isMet: boolean;
  /** What stands at the place, as text; the status; absent where nothing does. */
  readonly value: string | undefined;
}

/**
 * Holds a response against a condition.
 * @param first the response that changes are told from, as `isMeasure` finds it
 */
export function judge(condition: Condition, response: HeldResponse, first: HeldResponse | undefined): Judged {
  const value = valueFor(condition, response);
  switch (condition.type) {
    case 'status':
    case 'place':
      return { isMet: value !== undefined && compares(value, condition.comparison, condition.value), value };
    case 'changes':
      return { isMet: first !== undefined && hasChanged(condition.at, first, response), value };
    case 'appears':
      return { isMet: value !== undefined, value };
    default:
      return condition satisfies never;
  }
}

/**
 * Whether a response is what later ones may change from: one that did not succeed, as a redirect or "not modified", tells
 * nothing of a place that it lacks.
 */
export const isMeasure = (condition: Condition, response: HeldResponse): boolean =>
  condition.type !== 'changes' ||
  condition.at === undefined ||
  (response.status >= 200 && response.status < 300) ||
  valueFor(condition, response) !== undefined;

/** It says that nothing has changed (RFC 9110 15.4.5). */
const NOT_MODIFIED = 304;

function hasChanged(at: JsonSteps | undefined, first: HeldResponse, response: HeldResponse): boolean {
  if (response.status === NOT_MODIFIED) return false;
  // What is new each time, as times and ids are, is no change of the whole; of a place that was named it is.
  if (at === undefined) {
    const { verdict, lacksBody } = holdAgainst({ ...first, headers: [] }, { ...response, headers: [] });
    return verdict === 'differs' || lacksBody;
  }
  const [was, is] = [valueAtPlace(first, at), valueAtPlace(response, at)];
  if (was === is) return false;
  if (was === undefined || is === undefined) return first.status === response.status;
  if (!/^[[{]/.test(was) || !/^[[{]/.test(is)) return true;
  // Members in another order are the same object (RFC 8259 4).
  const asResponse = (text: string): HeldResponse => ({ status: 200, headers: [], body: { type: 'text', text } });
  return holdAgainst(asResponse(was), asResponse(is)).differences.length > 0;
}

function valueFor(condition: Condition, response: HeldResponse): string | undefined {
  if (condition.type === 'status') return String(response.status);
  return condition.at === undefined ? textOf(response) : valueAtPlace(response, condition.at);
}

function valueAtPlace(response: HeldResponse, at: JsonSteps): string | undefined {
  const text = textOf(response);
  return text === undefined ? undefined : textAt(text, at)?.text;
}

const textOf = ({ body }: HeldResponse): string | undefined => (body?.type === 'text' ? body.text : undefined);

function compares(value: string, comparison: Comparison, wanted: string): boolean {
  const [one, other] = [value, wanted].map(numberOf);
  const areNumbers = one !== undefined && other !== undefined;
  // A whole number and one with a fraction are of two types: neither less nor more is equal.
  const isEqual = value === wanted || (areNumbers && one <= other && one >= other);
  switch (comparison) {
    case '=':
      return isEqual;
    case '!=':
      return !isEqual;
    case '~':
      return value.toLowerCase().includes(wanted.toLowerCase());
    case '<':
      return areNumbers && one < other;
    case '<=':
      return areNumbers && one <= other;
    case '>':
      return areNumbers && one > other;
    case '>=':
      return areNumbers && one >= other;
    default:
      return comparison satisfies never;
  }
}

/** A text as a number: whole ones in all their digits, which a double may not hold. */
function numberOf(text: string): number | bigint | undefined {
  if (/^\s*-?\d+\s*$/.test(text)) return BigInt(text.trim());
  const number = text.trim() === '' ? Number.NaN : Number(text);
  return Number.isNaN(number) ? undefined : number;
}

/** What a condition is about, for people: "$.price", "the status", "the response". */
export function tellSubject(condition: Condition): string {
  if (condition.type === 'status') return 'the status';
  return condition.at === undefined ? 'the response' : writePath(condition.at);
}

/** The fields of the loop whose code waits for the same; undefined where no code is written of a condition. */
export function loopOfWatch(condition: Condition, everyMs: number, most: number): Partial<LoopFields> | undefined {
  const fields = { kind: 'poll', pauseMs: String(everyMs), mostTries: String(most) } as const;
  if (condition.type === 'status' && condition.comparison === '=') return { ...fields, status: condition.value };
  if (condition.type !== 'place' || condition.comparison === '!=' || condition.comparison === '~') return undefined;
  const until = condition.comparison === '=' ? condition.value : `${condition.comparison} ${condition.value}`;
  return { ...fields, status: '', at: writePath(condition.at), until };
}
