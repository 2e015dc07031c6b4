import { regexReason } from '../wording';
import { type FindQuery, type Form, type Needle, spellingsOf } from './query';

/** A place in a text where something was found: [offset, offset + length) in UTF-16 units. */
export interface Match {
  readonly offset: number;
  readonly length: number;
  readonly form: Form;
}

/** A search that is ready to run over texts. */
export interface Search {
  /** What it looks for letter by letter; none for a regular expression, which may match anything. */
  readonly needles: readonly Needle[];
  /** The matches in a text by their places, at most `most`; those that overlap an earlier one are left out. */
  readonly inText: (text: string, most: number) => Match[];
}

export type PreparedSearch =
  | { readonly ok: true; readonly search: Search }
  | {
      readonly ok: false;
      readonly problem: { readonly code: 'empty' } | { readonly code: 'bad-regex'; readonly reason: string };
    };

/** Makes a search of a query. */
export function prepareSearch(query: FindQuery): PreparedSearch {
  if (query.text === '') return { ok: false, problem: { code: 'empty' } };
  if (!query.isRegex) {
    const needles = spellingsOf(query);
    return { ok: true, search: { needles, inText: (text, most) => findNeedles(text, needles, query.wholeWord, most) } };
  }
  try {
    const regex = new RegExp(query.text, `gmu${query.matchesCase ? '' : 'i'}`);
    return { ok: true, search: { needles: [], inText: (text, most) => findRegex(text, regex, query.wholeWord, most) } };
  } catch (error) {
    const reason = regexReason(error);
    return { ok: false, problem: { code: 'bad-regex', reason } };
  }
}

export function wordFindProblem(problem: Extract<PreparedSearch, { ok: false }>['problem']): string {
  switch (problem.code) {
    case 'empty':
      return 'There is nothing to look for: type a text.';
    case 'bad-regex':
      return `This regular expression cannot be read: ${problem.reason}.`;
    default:
      return problem satisfies never;
  }
}

function findNeedles(text: string, needles: readonly Needle[], wholeWord: boolean, most: number): Match[] {
  let folded: string | undefined;
  const matches = needles.flatMap((needle) => {
    if (needle.text.length > text.length) return [];
    if (!needle.ignoresCase) return findLiteral(text, text, needle.text, needle.form, wholeWord, most);
    folded ??= text.toLowerCase();
    // A few letters change their length with their case, and every place behind them would be wrong.
    if (folded.length !== text.length) return findByRegex(text, needle, wholeWord, most);
    return findLiteral(folded, text, needle.text.toLowerCase(), needle.form, wholeWord, most);
  });
  return withoutOverlaps(matches).slice(0, most);
}

function findLiteral(
  haystack: string,
  text: string,
  wanted: string,
  form: Form,
  wholeWord: boolean,
  most: number,
): Match[] {
  const matches: Match[] = [];
  for (
    let at = haystack.indexOf(wanted);
    at !== -1 && matches.length < most;
    at = haystack.indexOf(wanted, at + wanted.length)
  ) {
    if (standsAs(form, wholeWord, text, at, wanted.length)) {
      matches.push({ offset: at, length: wanted.length, form });
    }
  }
  return matches;
}

function findByRegex(text: string, needle: Needle, wholeWord: boolean, most: number): Match[] {
  const literal = new RegExp(needle.text.replace(/[\\^$.*+?()[\]{}|/]/g, '\\$&'), 'giu');
  const isWhole = wholeWord || isWritten(needle.form);
  return findRegex(text, literal, isWhole, most).map((match) => ({ ...match, form: needle.form }));
}

/** Base64 has no words; a number that is written otherwise counts only as a whole: 34.00 is not in 341. */
function standsAs(form: Form, wholeWord: boolean, text: string, offset: number, length: number): boolean {
  if (form === 'base64') return true;
  if (form === 'date' && !wholeWord && !/^\d+$/.test(text.slice(offset, offset + length))) {
    // A time may follow behind a letter, as in 2027-07-14T10:00.
    return !DIGIT.test(text.charAt(offset - 1)) && !DIGIT.test(text.charAt(offset + length));
  }
  return !(wholeWord || isWritten(form)) || isWord(text, offset, length);
}

const isWritten = (form: Form): boolean => form === 'number' || form === 'date';

function findRegex(text: string, regex: RegExp, wholeWord: boolean, most: number): Match[] {
  const matches: Match[] = [];
  for (const found of text.matchAll(regex)) {
    const { length } = found[0];
    if (length === 0 || (wholeWord && !isWord(text, found.index, length))) continue;
    matches.push({ offset: found.index, length, form: 'plain' });
    if (matches.length >= most) break;
  }
  return matches;
}

const IN_WORD = /[\p{L}\p{N}\p{M}_]/u;

const DIGIT = /^\d$/;

/** True where no letter or digit stands right before or after, and no number goes on: 34 is not a word of 34.52. */
function isWord(text: string, offset: number, length: number): boolean {
  const end = offset + length;
  const before = charBefore(text, offset);
  const after = text.codePointAt(end);
  if (IN_WORD.test(before) || (after !== undefined && IN_WORD.test(String.fromCodePoint(after)))) return false;
  const isDigitAt = (at: number): boolean => DIGIT.test(text.charAt(at));
  // Only points: commas also stand between the numbers of a list.
  const goesOn = text.charAt(end) === '.' && isDigitAt(end - 1) && isDigitAt(end + 1);
  const cameBefore = before === '.' && isDigitAt(offset) && isDigitAt(offset - 2);
  return !goesOn && !cameBefore;
}

function charBefore(text: string, offset: number): string {
  const unit = text.charCodeAt(offset - 1);
  const isLow = unit >= 0xdc00 && unit <= 0xdfff;
  return text.slice(Math.max(0, offset - (isLow ? 2 : 1)), offset);
}

function withoutOverlaps(matches: readonly Match[]): Match[] {
  const kept: Match[] = [];
  let end = 0;
  for (const match of [...matches].sort((a, b) => a.offset - b.offset || b.length - a.length)) {
    if (match.offset < end) continue;
    kept.push(match);
    end = match.offset + match.length;
  }
  return kept;
}
