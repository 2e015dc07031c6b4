import { type Dimension, FIELD_NAMES } from './fields';

/** What is wrong with a filter, and where: [from, to) of its text; both are its length at the end of the expression. */
export type FilterProblem = { readonly from: number; readonly to: number } & (
  | { readonly code: 'open-quote' }
  | { readonly code: 'expected-term'; readonly found: string | undefined }
  | { readonly code: 'expected-value'; readonly field: string; readonly found: string | undefined }
  | { readonly code: 'expected-list'; readonly field: string }
  | { readonly code: 'expected-close' }
  | { readonly code: 'unexpected-close' }
  | { readonly code: 'unknown-field'; readonly name: string }
  | { readonly code: 'needs-name'; readonly field: string }
  | { readonly code: 'no-order'; readonly field: string; readonly operator: string }
  | { readonly code: 'no-text'; readonly field: string; readonly operator: string }
  | { readonly code: 'not-a-number'; readonly field: string; readonly dimension: Dimension; readonly found: string }
  | { readonly code: 'flag-compared'; readonly field: string }
  | {
      readonly code: 'unknown-value';
      readonly field: string;
      readonly found: string;
      readonly values: readonly string[];
    }
  | { readonly code: 'bad-regex'; readonly reason: string }
  | { readonly code: 'too-deep' }
);

const found = (text: string | undefined): string => (text === undefined ? 'the end of the expression' : `"${text}"`);

const EXAMPLE: Record<Dimension, string> = { ms: '200 ms or 1.5 s', bytes: '500 B, 20 kB or 1 MB', count: '404' };

/** The problem in a sentence for who typed the filter. */
export function wordFilterProblem(problem: FilterProblem): string {
  switch (problem.code) {
    case 'open-quote':
      return 'This quote is never closed: put " at its end.';
    case 'expected-term':
      return `A word or a comparison is expected here; found ${found(problem.found)}.`;
    case 'expected-value':
      return `A value to compare ${problem.field} with is expected; found ${found(problem.found)}.`;
    case 'expected-list':
      return `A list in parentheses is expected after in, as in ${problem.field} in (a, b).`;
    case 'expected-close':
      return 'This parenthesis is never closed: put ) at its end.';
    case 'unexpected-close':
      return 'Unmatched ): delete it.';
    case 'unknown-field':
      return `Unknown field "${problem.name}"${nearest(problem.name)}; to search URLs for this text, put it in quotes.`;
    case 'needs-name':
      return `${problem.field} needs a name: write ${problem.field}.NAME.`;
    case 'no-order':
      return `${problem.field} is text and has no order: use = != ~ or !~ instead of ${problem.operator}.`;
    case 'no-text':
      return `${problem.field} is a number: use = != < <= > or >= instead of ${problem.operator}.`;
    case 'not-a-number':
      return `${problem.field} is a number, such as ${EXAMPLE[problem.dimension]}; found "${problem.found}".`;
    case 'flag-compared':
      return `${problem.field} is a yes or no: write ${problem.field} or not ${problem.field}.`;
    case 'unknown-value':
      return `There is no ${problem.field} "${problem.found}": use one of ${problem.values.join(', ')}.`;
    case 'bad-regex':
      return `This regular expression cannot be read: ${problem.reason}.`;
    case 'too-deep':
      return 'There are too many parentheses inside one another.';
    default:
      return problem satisfies never;
  }
}

/** A field that starts alike. */
function nearest(name: string): string {
  const like = FIELD_NAMES.find((field) => field.startsWith(name.slice(0, 3).toLowerCase()));
  return like === undefined ? '' : ` (did you mean ${like}?)`;
}
