/** What terminals and readers act on, turn around or hide; line feeds are kept. */
export const ACTED_ON =
  // biome-ignore lint/suspicious/noControlCharactersInRegex: captures may hold any of them.
  /[\u0000-\u0009\u000b-\u001f\u007f-\u009f\u00ad\u061c\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff\ufff9-\ufffb]/g;

/** Captured text made fit to be read: what would be acted on, or not be seen, stands as its escape. Line feeds stay. */
export const visible = (text: string): string =>
  text.replace(ACTED_ON, (character) => {
    const code = character.charCodeAt(0);
    return code < 0x100 ? `\\x${code.toString(16).padStart(2, '0')}` : `\\u${code.toString(16)}`;
  });

/** The same for what has to stay on one line. */
export const inLine = (text: string): string => visible(text).replaceAll('\n', '\\n');
