import type { Command } from './command';

/** A line of a config file: an option by its long or short name, and its value (curl manual, --config). */
const LINE = /^\s*(-{0,2})([A-Za-z][\w.-]*)(?:\s*[=:]\s*|\s+)?([\s\S]*)$/;
const ESCAPES: Readonly<Record<string, string>> = { t: '\t', n: '\n', r: '\r', v: '\u000b' };

/** True for a text that is a config file: an address by its name, and nothing but options. */
export const isCurlConfig = (text: string): boolean =>
  /^\s*(?:--)?url\s*[=:\s]\s*\S/m.test(text) &&
  text
    .split('\n')
    .every((line) => /^\s*(?:#.*)?$/.test(line) || /^\s*-{0,2}[A-Za-z][\w.-]*(?:\s*[=:]|\s|$)/.test(line));

/** The command that a config file stands for. */
export function readCurlConfig(text: string): Command {
  const words: string[] = ['curl'];
  for (const line of text.split(/\r?\n/)) {
    if (/^\s*(?:#|$)/.test(line)) continue;
    const [, dashes = '', name = '', rest = ''] = LINE.exec(line) ?? [];
    if (name === '') continue;
    words.push(dashes === '-' || (dashes === '' && name.length === 1) ? `-${name}` : `--${name}`);
    if (rest.trim() !== '') words.push(optionValue(rest.trim()));
  }
  return { words, input: undefined };
}

function optionValue(written: string): string {
  const quoted = /^"((?:[^"\\]|\\[\s\S])*)"/.exec(written)?.[1];
  if (quoted !== undefined) return quoted.replace(/\\([\s\S])/g, (_, one: string) => ESCAPES[one] ?? one);
  return /^\S+/.exec(written)?.[0] ?? '';
}
