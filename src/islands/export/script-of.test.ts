import { readFileSync } from 'node:fs';
import { strFromU8, unzipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { DEFAULT_OPTIONS } from '#core/convert';
import { codeOfSelection } from './script-of';

const BOOKING = new URL('../../../demo/captures/booking-gone-wrong.har', import.meta.url);
const whole = JSON.parse(readFileSync(BOOKING, 'utf8')) as { log: { entries: { request: { url: string } }[] } };
/** A capture of just these exchanges. */
const captureOf = (indexes: readonly number[]): string =>
  JSON.stringify({ log: { ...whole.log, entries: indexes.map((index) => whole.log.entries[index]) } });
/** The renewal of the token, and the call that was sent with the new one. */
const RENEWAL = whole.log.entries.findIndex(({ request }) => request.url.endsWith('/session/renew'));
const CALLS = [RENEWAL, RENEWAL + 1];

describe('the code of a selection', () => {
  it('is one script where the target has scripts, and tells what is carried by the numbers of the capture', async () => {
    const { name, content, notes } = codeOfSelection(captureOf(CALLS), CALLS, 'python-requests', DEFAULT_OPTIONS);
    expect(name).toBe('script.py');
    const text = await content.text();
    expect(text.match(/requests\.(get|post)|session\.(get|post|request)/g)?.length).toBeGreaterThanOrEqual(2);
    expect(notes[0]).toBe(`token is taken from the response of #${RENEWAL} and used in #${RENEWAL + 1}.`);
    // The recorded token would be worn out another day.
    expect(text).not.toMatch(/eyJ[\w-]+\.[\w-]+\.[\w-]+/);
  });

  it('is a folder of files for other targets, each named by its number', async () => {
    const { name, content } = codeOfSelection(captureOf(CALLS), CALLS, 'ruby', DEFAULT_OPTIONS);
    expect(name).toBe('requests.zip');
    const files = unzipSync(new Uint8Array(await content.arrayBuffer()));
    expect(Object.keys(files)).toEqual(CALLS.map((index) => `${index}.rb`));
    expect(strFromU8(files[`${RENEWAL}.rb`] ?? new Uint8Array())).toContain('/session/renew');
  });

  it.each(['python-requests', 'ruby'])(
    'of %s holds no credentials where they are read from the environment',
    async (target) => {
      const calls = [RENEWAL + 1];
      const textOf = async (secretsFromEnv: boolean): Promise<string> => {
        const { name, content } = codeOfSelection(captureOf(calls), calls, target, {
          ...DEFAULT_OPTIONS,
          secretsFromEnv,
        });
        if (!name.endsWith('.zip')) return content.text();
        return Object.values(unzipSync(new Uint8Array(await content.arrayBuffer())))
          .map((bytes) => strFromU8(bytes))
          .join();
      };
      expect(await textOf(false)).toMatch(/eyJ[\w-]+\.[\w-]+\.[\w-]+/);
      expect(await textOf(true)).not.toMatch(/eyJ[\w-]+\.[\w-]+\.[\w-]+/);
      expect(await textOf(true)).toContain('TOKEN');
    },
  );

  it('names each warning once', () => {
    const socket = {
      ...whole.log.entries[0],
      request: { ...whole.log.entries[0]?.request, url: 'wss://a.example/beds' },
    };
    const har = JSON.stringify({ log: { ...whole.log, entries: [socket, socket] } });
    const { notes } = codeOfSelection(har, [0, 1], 'ruby', DEFAULT_OPTIONS);
    expect(notes.filter((note) => note.startsWith('A socket'))).toHaveLength(1);
  });
});
