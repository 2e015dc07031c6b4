import { spawnSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readPosix } from './posix';

const read = (text: string) => readPosix(text).commands;
const inputOf = (text: string): string | undefined => {
  const input = read(text)[0]?.input;
  return input === undefined ? undefined : new TextDecoder().decode(input);
};

describe('words, against what a shell makes of them', () => {
  const plain = fc.stringMatching(/^[a-zA-Z0-9_=,.:/@%+-]{1,6}$/);
  const inSingle = fc.stringMatching(/^[a-z"\\$`;&|<>#() \n\t~*?!é✓-]{0,8}$/).map((text) => `'${text}'`);
  const inDouble = fc
    .array(
      fc.oneof(
        fc.stringMatching(/^[a-z';&|<>#() \n\t~*?é✓-]{1,5}$/),
        fc.constantFrom('\\"', '\\\\', '\\$', '\\`', '\\n', '\\a', '\\\n', "\\'"),
      ),
      { maxLength: 4 },
    )
    .map((parts) => `"${parts.join('')}"`);
  const escaped = fc.constantFrom('\\ ', "\\'", '\\"', '\\\\', '\\$', '\\;', '\\#', '\\a', '\\\n', '\\|', '\\*');
  const ansi = fc
    .array(
      fc.oneof(
        fc.stringMatching(/^[a-z"$ ;|é✓\n-]{1,4}$/),
        fc.constantFrom(
          "\\'",
          '\\\\',
          '\\n',
          '\\t',
          '\\x41',
          '\\x7e',
          '\\101',
          '\\u00e9',
          '\\U0001F600',
          '\\e',
          '\\q',
          '\\?',
        ),
      ),
      { maxLength: 4 },
    )
    .map((parts) => `$'${parts.join('')}'`);
  const word = fc.tuple(plain, fc.array(fc.oneof(plain, inSingle, inDouble, escaped, ansi), { maxLength: 4 }));
  const space = fc.constantFrom(' ', '\t', '   ', ' \\\n ');
  const line = fc.array(fc.tuple(space, word), { minLength: 1, maxLength: 4 });

  it('are the same, whatever quotes stand in them', () => {
    const lines = fc
      .sample(line, { numRuns: 400, seed: 7 })
      .map((words) => `args${words.map(([gap, [first, rest]]) => gap + first + rest.join('')).join('')}`);
    const script = `args() { printf '%s\\0' "$@"; printf '\\1\\0'; }\n${lines.join('\n')}\n`;
    const { stdout, status, stderr } = spawnSync('bash', ['--norc'], { input: script, encoding: 'utf8' });
    expect([status, stderr]).toEqual([0, '']);
    const said = stdout.split('\u0001\0').slice(0, -1);
    expect(said).toHaveLength(lines.length);
    for (const [at, text] of lines.entries()) {
      expect({ text, words: read(text)[0]?.words }).toEqual({
        text,
        words: ['args', ...(said[at] ?? '').split('\0').slice(0, -1)],
      });
    }
  });
});

describe('what a command reads', () => {
  const body = '\t{"price": "\\$5", "path": "C:\\\\x"}\n \tEND\nit\'s "so" \\q\n';
  it.each([
    ['with nothing expanded', `cat <<'END'\n${body}END\n`],
    ['with escapes', `cat <<END\n${body}END\n`],
    ['with tabs left out', `cat <<-END\n${body}\tEND\n`],
    ['with tabs left out and nothing expanded', `cat <<-"END"\n${body}\t\tEND\n`],
    ['in a word', "cat <<< 'a  b'\n"],
    ['from printf', "printf 'a\\tb\\\\\\101%%' | cat\n"],
    ['from printf, as it stands', "printf %s 'a\\tb%' | cat\n"],
    ['from echo', 'echo a   b | cat\n'],
    ['from echo without its line end', "echo -n 'a  b' | cat\n"],
  ])('is what the shell gives it: %s', (_, text) => {
    const { stdout } = spawnSync('bash', ['--norc'], { input: text, encoding: 'utf8' });
    expect(stdout).not.toBe('');
    expect(inputOf(text)).toBe(stdout);
  });

  it('has its variables marked, which are asked for', () => {
    const { commands, variables } = readPosix('curl -d @- <<END\n{"token": "$TOKEN", "at": "${PLACE:-hut}"}\nEND\n');
    expect(new TextDecoder().decode(commands[0]?.input)).toBe('{"token": "‹TOKEN›", "at": "‹PLACE›"}\n');
    expect([...variables.keys()]).toEqual(['TOKEN', 'PLACE']);
  });

  it('is not there where it stands in a file, and that is said', () => {
    const { commands, notes } = readPosix('curl -d @- < beds.json');
    expect(commands).toEqual([{ words: ['curl', '-d', '@-'], input: undefined }]);
    expect(notes).toEqual(['The file "beds.json" that is read in is not here.']);
  });
});

describe('commands', () => {
  const wordsOf = (text: string) => read(text).map(({ words }) => words.join(' '));
  it.each([
    ['a;b', ['a', 'b']],
    ['a && b || c & d', ['a', 'b', 'c', 'd']],
    ['# nothing\na # the rest\nb#c', ['a', 'b#c']],
    ['a > out.json 2>&1 b2>c', ['a b2']],
    [': > out; a', ['a']],
    ['a \\\n  b', ['a b']],
    ['a\r\nb', ['a', 'b']],
    ['', []],
  ])('%j are told apart', (text, words) => {
    expect(wordsOf(text)).toEqual(words);
  });

  it('set variables, use them, and never run what is to be substituted', () => {
    const { commands, variables, notes } = readPosix('HUT="alba norte"\ncurl "a/$HUT/$(id)/`id`"');
    expect(variables.get('HUT')).toEqual({ value: 'alba norte', isSecret: false });
    expect(commands[0]?.words).toEqual(['curl', 'a/‹HUT›/‹id›/‹id2›']);
    expect(variables.get('id2')).toEqual({ value: '', isSecret: true });
    expect(notes).toEqual([
      '‹id› stands for what $(id) writes: nothing is run here.',
      '‹id2› stands for what `id` writes: nothing is run here.',
    ]);
  });

  it.each([
    [
      'T=$(curl -s "u/)" | jq -r ".a()"); curl "b/$T"',
      ['curl -s u/)', 'curl b/‹T›'],
      ['$(curl -s "u/)" | jq -r ".a()")'],
    ],
    ['curl a/`echo \\`x\\``/$((1 + $N))', ['curl a/‹echo›/‹number›'], ['`echo \\`x\\``', '$((1 + $N))']],
    ['curl "a/$1?x=$@" -d "$(cat <<< "b")"', ['curl a/‹arg1›?x=‹args› -d ‹cat›'], ['$(cat <<< "b")']],
    ['curl "a/$(curl b/$(curl c))"', ['curl c', 'curl b/‹curl›', 'curl a/‹curl2›'], undefined],
    ['curl a/$(b', ['curl a/‹b›'], ['$(b)']],
  ])('what %s would write is a variable, and what is within it is read', (text, words, sources) => {
    const read = readPosix(text);
    expect(read.commands.map((command) => command.words.join(' '))).toEqual(words);
    if (sources !== undefined)
      expect(read.notes.map((note) => /what ([\s\S]*) writes/.exec(note)?.[1])).toEqual(sources);
  });

  it.each([
    ["curl 'a", "A quote ' is never closed."],
    ['curl "a', 'A quote " is never closed.'],
  ])('%j says what is amiss', (text, note) => {
    const { commands, notes } = readPosix(text);
    expect(commands[0]?.words).toEqual(['curl', 'a']);
    expect(notes).toEqual([note]);
  });

  it('are read from any text without an error', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 60 }), (text) => {
        expect(Array.isArray(read(text))).toBe(true);
      }),
    );
  });
});
