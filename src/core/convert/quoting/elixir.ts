import { hex, quoteBy } from './escape';

const coded = (codePoint: number): string => `\\u{${hex(codePoint, 1)}}`;

/** What is between an Elixir string's quotes: # would begin an interpolation before a brace (Elixir, Strings). */
const inQuotes = quoteBy({ open: '', close: '', slashed: /[\\"]|#(?=\{)/g, coded });
/** The same between marks that the text does not hold. */
const inMarks = quoteBy({ open: '', close: '', slashed: /\\|#(?=\{)/g, coded });

/**
 * An Elixir string of texts and of what is interpolated between them: in marks of its own where quotes would all have to be
 * escaped.
 */
export function elixirString(pieces: readonly ({ readonly text: string } | { readonly code: string })[]): string {
  const all = pieces.map((piece) => ('text' in piece ? piece.text : '')).join('');
  const quotes = all.split('"').length - 1;
  const mark = quotes < 2 ? undefined : ['|', '/', "'"].find((one) => !all.includes(one));
  const write = mark === undefined ? inQuotes : inMarks;
  const body = pieces.map((piece) => ('text' in piece ? write(piece.text) : `#{${piece.code}}`)).join('');
  return mark === undefined ? `"${body}"` : `~s${mark}${body}${mark}`;
}

/** An Elixir string literal in quotes. */
export const quoteElixir = (text: string): string => `"${inQuotes(text)}"`;
