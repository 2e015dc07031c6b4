import { base64Of } from '../../content';
import type { DraftPart } from '../draft';
import type { Plan } from '../plan';
import { chunksOf } from '../quoting/chunks';
import { type CommentMark, commentLine } from './comment';
import { readText } from './js';

// What targets have in common whatever their language.

/** Left-out headers as comment lines. */
export const leftOutComments = (
  plan: Plan,
  mark: CommentMark,
  quote: (text: string) => string,
  indent = '',
): string[] =>
  plan.leftOut.map(({ name, value, reason }) =>
    commentLine(mark, `${name}: ${quote(value)}, left out: ${reason}`, indent),
  );

/** The content of a part: its text where it is text that no line end changes, else its bytes; absent for a file. */
export const partContent = ({ bytes }: DraftPart): { readonly text?: string; readonly base64?: string } => {
  if (bytes === undefined) return {};
  const text = readText(bytes);
  return text === undefined ? { base64: base64Of(bytes) } : { text };
};

/** A long literal in pieces, joined by the running code. */
export const joinChunks = (
  text: string,
  length: number,
  quote: (text: string) => string,
  join: (pieces: string[]) => string,
): string => {
  const chunks = chunksOf(text, length);
  return chunks.length === 1 ? quote(text) : join(chunks.map(quote));
};

export const isBinary = (plan: Plan): boolean =>
  plan.options.prints === 'file' || (plan.answer === 'binary' && plan.options.prints === 'body');
