/** Why a regular expression cannot be read, in the engine's words without the expression itself. */
export const regexReason = (error: unknown): string =>
  (error as Error).message.replace(/^Invalid regular expression: /, '').replace(/^.*\/[a-z]*: /s, '');
