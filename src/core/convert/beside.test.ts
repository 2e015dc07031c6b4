import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { boundaryOf, readMultipart } from '../content';
import { withFilesBeside } from './beside';
import { type Draft, type DraftPart, EMPTY_DRAFT } from './draft';
import { DEFAULT_OPTIONS, findTarget } from './index';
import { type Echo, startEcho } from './testing/echo';
import { itNeeding, RUN_TARGETS, SCRIPT_COMMANDS, SCRIPT_NEEDS } from './testing/tools';

const run = promisify(execFile);
let echo: Echo;
beforeAll(async () => {
  echo = await startEcho();
});
afterAll(() => echo.close());

const part = (name: string, fileName: string | undefined, bytes: Uint8Array): DraftPart => ({
  name,
  fileName,
  contentType: fileName === undefined ? undefined : 'image/png',
  bytes,
});
const PHOTO = Uint8Array.from({ length: 700 }, (_, at) => (at * 7) % 256);
const formOf = (parts: readonly DraftPart[]): Draft => ({
  ...EMPTY_DRAFT,
  method: 'POST',
  payload: { type: 'parts', boundary: 'xYz', parts },
});

describe('uploads beside the code', () => {
  for (const id of RUN_TARGETS) {
    itNeeding(SCRIPT_NEEDS[id])(`are read from there by ${id}, and arrive as they were captured`, async () => {
      const door = await echo.openDoor();
      const whole = {
        ...formOf([
          part('caption', undefined, Buffer.from('dawn')),
          part('photo', 'dawn at the hut.png', PHOTO),
          part('note', 'note.txt', Buffer.from('two beds\n')),
        ]),
        url: `http://127.0.0.1:${door.port}/photos`,
      };
      const { draft, files } = withFilesBeside(whole);
      expect(files.map(({ name }) => name)).toEqual(['dawn at the hut.png', 'note.txt']);
      const { text, warnings } = findTarget(id)?.render(draft, DEFAULT_OPTIONS) ?? { text: '', warnings: [] };
      expect(text).not.toContain(Buffer.from(PHOTO).toString('base64').slice(0, 40));
      expect(warnings.filter((warning) => warning.includes('next to'))).toEqual([]);
      const folder = mkdtempSync(join(tmpdir(), 'trazado-beside-'));
      const path = join(folder, `run.${findTarget(id)?.extension}`);
      for (const { name, bytes } of files) writeFileSync(join(folder, name), bytes);
      writeFileSync(path, text);
      const [command, ...args] = SCRIPT_COMMANDS[id];
      await run(command, [...args, path], { cwd: folder });
      rmSync(folder, { recursive: true });
      const [arrived] = door.take();
      const type = arrived?.headers.find(({ name }) => name.toLowerCase() === 'content-type')?.value;
      const parts = readMultipart(arrived?.body ?? new Uint8Array(), boundaryOf(type) ?? '');
      expect(parts.map(({ name, fileName }) => [name, fileName])).toEqual([
        ['caption', undefined],
        ['photo', 'dawn at the hut.png'],
        ['note', 'note.txt'],
      ]);
      expect(Buffer.from(parts[1]?.bytes ?? []).equals(PHOTO)).toBe(true);
    });
  }

  it('are all in a message, which reads no files', () => {
    const payload = { type: 'bytes', bytes: PHOTO } as const;
    const { draft, files } = withFilesBeside({ ...EMPTY_DRAFT, method: 'PUT', url: 'https://a.example/p', payload });
    expect(files).toEqual([{ name: 'payload.bin', bytes: PHOTO }]);
    const { bytes } = findTarget('http')?.render(draft, DEFAULT_OPTIONS) ?? {};
    expect(Buffer.from(bytes ?? []).includes(Buffer.from(PHOTO))).toBe(true);
    expect(findTarget('curl-sh')?.render(draft, DEFAULT_OPTIONS).text).toContain('@payload.bin');
  });

  it.each([
    ['../up.png', 'a/b.png', 'c:\\d.png', '-rf', '..', 'nul.txt', 'COM1', 'a\u202egnp.exe', 'x'.repeat(300), 'a.', ''],
    ['A.png', 'a.PNG'],
  ])('stay in the code where they can be no file of their name: %j', (...names: string[]) => {
    const { draft, files } = withFilesBeside(formOf(names.map((name) => part('f', name, PHOTO))));
    const parts = draft.payload.type === 'parts' ? draft.payload.parts : [];
    expect(files.map(({ name }) => name)).toEqual(names[0] === 'A.png' ? ['A.png'] : []);
    expect(parts.filter(({ isBeside }) => isBeside === true)).toHaveLength(files.length);
  });
});
