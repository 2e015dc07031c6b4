import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { getExchange, withInput } from '../src/cli/input';
import { type RunOptions, runContext } from '../src/cli/sending';
import { draftFromExchange } from '../src/core/convert';
import { runTrim } from '../src/server/runs/trim';
import { type RunningSite, startSite } from './site';
import { makeToken } from './site/api';

// What the site asks for is written in its own code: every request of the booking is trimmed to just that.

let site: RunningSite;
const folder = mkdtempSync(join(tmpdir(), 'trazado-trim-'));
beforeAll(async () => {
  site = await startSite(folder);
});
afterAll(async () => {
  await site.close();
  rmSync(folder, { recursive: true });
});

const NONE: readonly string[] = [];
/** Each exchange of the booking that calls the site, and all that it needs for its response. */
const NEEDS: readonly (readonly [number, string, readonly string[]])[] = [
  [9, 'a session', NONE],
  [13, 'a renewed session', NONE],
  [14, 'nights', ['header authorization']],
  [16, 'a search', ['parameter q']],
  [19, 'a hold', ['header authorization']],
  [20, 'an operation of GraphQL', ['field query', 'field variables', 'field hut']],
  [26, 'a change of a hold', ['header authorization', 'field nights']],
  [28, 'the end of a hold', ['header authorization']],
];

describe('the requests of the booking', () => {
  it.each(NEEDS)(
    '#%d, %s, are trimmed to what the site asks for',
    async (number, _, needed) => {
      const exchange = await withInput('demo/captures/booking-gone-wrong.har', (input) =>
        getExchange(input, String(number)),
      );
      const captured = draftFromExchange(exchange, 'faithful');
      // The token of the recording has run out.
      const headers = captured.headers.map((header) =>
        header.name === 'authorization'
          ? { ...header, value: `Bearer ${makeToken(Math.floor(Date.now() / 1000))}` }
          : header,
      );
      const options: RunOptions = {
        preset: 'faithful',
        header: [],
        without: [],
        query: [],
        toHost: [...site.toHosts].map(([host, place]) => `${host}=${place}`),
        ignoreCertificate: true,
        unsafe: true,
      };
      const sent: string[] = [];
      const request = { draft: { ...captured, headers }, captured: exchange };
      const { context, end } = runContext(request, options, ({ label }) => sent.push(label));
      await runTrim(context, { kind: 'trim', measure: 'now', mostSends: 80 });
      const { result, sentence } = end();
      expect(result.trim, sentence).toMatchObject({ isProven: true });
      expect(result.trim?.needed.map(({ name }) => name).sort()).toEqual([...needed].sort());
      expect(result.trim?.needed.every(({ reason }) => reason.startsWith('without it '))).toBe(true);
    },
    60_000,
  );
});
