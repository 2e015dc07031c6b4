import { singleQuoted } from '../quoting/posix';

/** What begins a comment that ends with its line. */
export type CommentMark = '#' | '//' | ';' | "'" | 'rem';

/**
 * What ends a line in one language or another, drives a terminal, turns text around, or is not seen: line feed, carriage
 * return, vertical tab, form feed, NEL, U+2028 and U+2029, all other controls, marks of direction and of no width, and
 * halves of characters.
 */
const ENDS_OR_HIDES =
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are the characters that may not stand in a comment.
  /[\u0000-\u001f\u007f-\u009f\u00ad\u061c\u180e\u200b-\u200f\u2028-\u202e\u2060-\u206f\ufeff\ufff9-\ufffb]/g;

/**
 * A text in which nothing ends the comment that it stands in, in any language that is written here: no line ends anywhere in
 * it; PHP's closing tag is parted; no run of backslashes makes a character of a "u" behind it, as Java's compiler would even
 * in a comment (JLS 3.3).
 */
const commentText = (text: string): string =>
  text
    .toWellFormed()
    .replace(ENDS_OR_HIDES, '?')
    .replaceAll('?>', '? >')
    .replace(/\\+(?=u)/g, (run) => (run.length % 2 === 0 ? run : `${run}\\`));

/** A comment of one line, which is the only way in which a text comes into one. */
export const commentLine = (mark: CommentMark, text: string, indent = ''): string =>
  `${indent}${mark} ${commentText(text)}`;

/**
 * The same for POSIX shells: some of them read comments at their prompt as commands, so that what was captured is a quoted
 * word there.
 * @param ours what stands behind it, in words of our own
 */
export const posixComment = (text: string, ours = ''): string =>
  `# ${singleQuoted(commentText(text))}${ours === '' ? '' : `  ${ours}`}`;
