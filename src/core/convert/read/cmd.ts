import { bytesFromBase64 } from '../../content';
import type { Command, ReadScript } from './command';
import { ShellVariables } from './shell-variables';
import { splitArguments } from './windows';

/**
 * Takes a text for cmd.exe apart: carets, quotes, %% of command files, lines that a caret joins. A name between two
 * percent signs becomes `‹name›`: with its value where the text sets it, as a secret where the environment has it.
 */
export function readCmd(text: string): ReadScript {
  const commands: Command[] = [];
  const variables = new ShellVariables();
  const marked = (text: string): string =>
    text.replace(NAMED, (whole, name: string, at: number) =>
      !variables.all.has(name) && isEncoding(text, at, name) ? whole : variables.refer(name),
    );
  const echoed = new Map<string, string>();
  const files = new Map<string, Uint8Array>();
  const notes: string[] = [];
  for (const { line, redirect } of splitCommands(text.replaceAll('\r\n', '\n'))) {
    const set = /^set\s+"?([A-Za-z_][A-Za-z0-9_]*)=([\s\S]*?)"?$/i.exec(line);
    const asked = /^if not defined ([A-Za-z_][A-Za-z0-9_]*)\s/i.exec(line);
    const echo = /^echo ([\s\S]*)$/i.exec(line);
    const decode = /^certutil\s+-f\s+-decode\s+(\S+)\s+(\S+)/i.exec(line);
    if (set !== null) variables.assign(set[1] ?? '', withPercents(marked(set[2] ?? '')));
    else if (asked !== null) variables.refer(asked[1] ?? '');
    else if (echo !== null && redirect !== undefined) {
      const name = redirect.replace(/^>+\s*/, '');
      echoed.set(name, (redirect.startsWith('>>') ? (echoed.get(name) ?? '') : '') + (echo[1] ?? '').trim());
    } else if (decode !== null)
      files.set(decode[2] ?? '', bytesFromBase64(echoed.get(decode[1] ?? '') ?? '') ?? new Uint8Array());
    else if (!/^(@?echo\b|rem\b|::)/i.test(line) && line.trim() !== '')
      commands.push({ words: splitArguments(withPercents(marked(line))), input: undefined });
  }
  return { commands, variables: variables.all, files, notes };
}

/** A percent sign that begins no name, until names are found: no command line can hold this character. */
const PERCENT = '\0';
const withPercents = (text: string): string => text.replaceAll(PERCENT, '%');
const NAMED = /%([A-Za-z][A-Za-z0-9_]*)%/g;

/** True where percent signs stand for encoded bytes on both sides, as in "%C3%A9", and name nothing. */
const isEncoding = (line: string, at: number, name: string): boolean =>
  /^[0-9a-f]{2}/i.test(name) && /^[0-9a-f]{2}/i.test(line.slice(at + name.length + 2));

/** Commands with their carets removed; quotes stay, since the program reads them. */
function splitCommands(text: string): { readonly line: string; readonly redirect: string | undefined }[] {
  const commands: { line: string; redirect: string | undefined }[] = [];
  let line = '';
  let redirect: string | undefined;
  let isQuoted = false;
  const end = (): void => {
    commands.push({ line: line.trim(), redirect });
    line = '';
    redirect = undefined;
    isQuoted = false;
  };
  for (let at = 0; at < text.length; at++) {
    const character = text[at] ?? '';
    if (character === '\n') end();
    else if (character === '%' && text[at + 1] === '%') {
      line += PERCENT;
      at++;
    } else if (isQuoted) {
      isQuoted = character !== '"';
      line += character;
    } else if (character === '^') {
      at++;
      // A caret at a line's end joins the next one, whose first character has no meaning.
      if (text[at] === '\n') at++;
      line += text[at] === '%' ? PERCENT : (text[at] ?? '');
    } else if (character === '&' || character === '|') end();
    else if (character === '>') {
      const match = /^>{1,2}\s*[^\s&|<>]+/.exec(text.slice(at));
      redirect = match?.[0];
      at += (match?.[0].length ?? 1) - 1;
    } else {
      isQuoted = character === '"';
      line += character;
    }
  }
  end();
  return commands;
}
