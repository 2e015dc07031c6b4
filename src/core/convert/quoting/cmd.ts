import { quoteArgument } from './windows';

/** A word that neither cmd nor the C runtime reads anything into. */
const PLAIN = /^[A-Za-z0-9_.:/@+-]+$/;

/**
 * A word for the prompt of cmd.exe: an argument as the C runtime reads it, each character that means something to cmd
 * with a caret before it. The quotes have theirs too, so that cmd never is inside of quotes, where carets would stay.
 * A percent sign's caret keeps a name between two of them from being a variable's. No line breaks: none can be quoted.
 */
export const quoteCmd = (text: string): string =>
  PLAIN.test(text) ? text : quoteArgument(text).replace(/["^&|<>()%!]/g, '^$&');
