/** A text as the pattern of a regular expression that matches it and nothing else. */
export const literally = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
