/** The words of a Windows command line, as the C runtime takes it apart (Microsoft, Parsing C command-line arguments). */
export function splitArguments(line: string): string[] {
  const words: string[] = [];
  let word: string | undefined;
  let isQuoted = false;
  for (let at = 0; at < line.length; ) {
    const slashes = /^\\+/.exec(line.slice(at))?.[0].length ?? 0;
    const character = line[at + slashes] ?? '';
    if (slashes > 0) {
      const isBeforeQuote = character === '"';
      word = (word ?? '') + '\\'.repeat(isBeforeQuote ? slashes >> 1 : slashes);
      at += slashes;
      if (isBeforeQuote && slashes % 2 === 1) {
        word += '"';
        at++;
      }
      continue;
    }
    at++;
    if (character === '"') {
      word ??= '';
      if (isQuoted && line[at] === '"') {
        word += '"';
        at++;
      } else isQuoted = !isQuoted;
    } else if (!isQuoted && /[ \t\n\r]/.test(character)) {
      if (word !== undefined) words.push(word);
      word = undefined;
    } else word = (word ?? '') + character;
  }
  if (word !== undefined) words.push(word);
  return words;
}
