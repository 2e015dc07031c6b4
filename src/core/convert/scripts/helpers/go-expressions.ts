import type { JsonSteps } from '../../../json';
import type { NumberPlace } from '../../loops/loop';
import type { Writing } from '../../loops/parameter';
import { quoteGo as quote } from '../../quoting/go';
import { splitAtEach, stepsAsWords } from '../places';
import type { Expected, ScriptNeeds } from '../statement';
import { call } from './go';

/** What stands at a place of JSON. */
export function valueAt(from: string, steps: JsonSteps, needs: ScriptNeeds): string {
  if (steps.length === 0) return from;
  call(needs, 'valueAt');
  return `valueAt(${from}, ${stepsAsWords(steps, quote)})`;
}

/** A test of `found`. */
export function isExpected(
  { text, value, than }: Expected,
  needs: ScriptNeeds,
): { readonly before: string[]; readonly test: string } {
  if (than !== undefined) {
    call(needs, 'numberOf');
    const test = `isNumber && number ${than.comparison} ${than.number}`;
    return { before: ['number, isNumber := numberOf(found)'], test };
  }
  const isText = `found == ${quote(text)}`;
  if (value === undefined) return { before: [], test: isText };
  if (value === null) return { before: [], test: `found == nil || ${isText}` };
  if (typeof value === 'boolean') return { before: [], test: `found == ${value} || ${isText}` };
  if (typeof value === 'number') {
    call(needs, 'numberOf');
    return { before: ['number, isNumber := numberOf(found)'], test: `isNumber && number == ${value} || ${isText}` };
  }
  call(needs, 'asJSON');
  return { before: [], test: `asJSON(found) == ${quote(JSON.stringify(value))}` };
}

/** The values at a place, one array after the other. */
export function foundAt(at: JsonSteps, needs: ScriptNeeds): string[] {
  const [first = [], ...others] = splitAtEach(at);
  if (others.length > 0) call(needs, 'spread');
  return [
    `found := []any{${valueAt('data', first, needs)}}`,
    ...others.flatMap((steps) => [
      'found = spread(found)',
      ...(steps.length === 0
        ? []
        : ['for at, item := range found {', `\tfound[at] = ${valueAt('item', steps, needs)}`, '}']),
    ]),
  ];
}

/** What leaves a number in a variable, and whether there is one in `isGiven`. */
export function numberAt(name: string, place: NumberPlace, needs: ScriptNeeds): string[] {
  if (place.in === 'json') {
    call(needs, 'numberOf');
    return [`${name}, isGiven := numberOf(${valueAt('data', place.at, needs)})`];
  }
  needs.import('regexp', 'strconv');
  return [
    // Of "items 0-24/319" the 319.
    `digits := regexp.MustCompile(\`(\\d+)\\s*$\`).FindStringSubmatch(response.Header.Get(${quote(place.name)}))`,
    `${name}, isGiven := 0.0, digits != nil`,
    'if isGiven {',
    `\t${name}, _ = strconv.ParseFloat(digits[1], 64)`,
    '}',
  ];
}

export function nextWritten({ as, before }: Writing, needs: ScriptNeeds): string {
  call(needs, as === 'json' ? 'asJSON' : 'textOf');
  if (as === 'encoded') needs.import('net/url');
  const text = as === 'json' ? 'asJSON(next)' : as === 'plain' ? 'textOf(next)' : 'url.QueryEscape(textOf(next))';
  return before === '' ? text : `${quote(before)} + ${text}`;
}
