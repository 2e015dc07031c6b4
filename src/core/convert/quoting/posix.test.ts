import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readPosix } from '../read/posix';
import { quotePosix } from './posix';

/** Texts of what shells, terminals and printf act on; no NUL, which no word can hold. */
const text = fc.string({
  unit: fc.oneof(
    fc.constantFrom(...`'"\`$\\%!^&;|<>(){}[]*?~# \t\n\r\u0003\u001b\u007f\u009b`, 'a', 'ü', '😀', '-'),
    fc.string({ unit: 'binary', minLength: 1, maxLength: 1 }).map((one) => one.toWellFormed().replaceAll('\0', '')),
  ),
  maxLength: 30,
});

describe('a word of a POSIX shell', () => {
  it('is read by the shell as the very text', () => {
    const known = ['\u0003\n', '\u001b\n\n', '-\u0003', '-', '-n', "-e'\u007f", '\n\u009b', "'\u0003'\n-"];
    const texts = [...known, ...fc.sample(text, { numRuns: 300, seed: 20261126 })];
    const script = `for word in ${texts.map(quotePosix).join(' ')}; do printf '%s\\000' "$word"; done`;
    const read = execFileSync('sh', ['-c', script], { env: { LC_ALL: 'C.UTF-8' } }).toString();
    expect(read.split('\0').slice(0, -1)).toEqual(texts);
  });

  it('holds nothing that a terminal acts on while it is pasted', () => {
    fc.assert(
      fc.property(text, (one) => {
        // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what must not be there.
        expect(quotePosix(one)).not.toMatch(/[\u0000-\u0009\u000b-\u001f\u007f-\u009f]/);
      }),
    );
  });

  it('is read back as the very text', () => {
    fc.assert(
      fc.property(text, (one) => {
        const { commands, notes } = readPosix(`x ${quotePosix(one)}`);
        expect(commands[0]?.words).toEqual(['x', one]);
        expect(notes).toEqual([]);
      }),
    );
  });
});
