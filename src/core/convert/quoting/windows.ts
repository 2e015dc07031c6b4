/**
 * A word of a Windows command line that the C runtime reads as exactly this text: in double quotes, with a backslash
 * before each quote and before each backslash that stands before one (Microsoft, Parsing C command-line arguments).
 */
export const quoteArgument = (text: string): string =>
  `"${text.replace(/(\\*)"/g, '$1$1\\"').replace(/(\\+)$/, '$1$1')}"`;
