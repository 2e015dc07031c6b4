import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type HarEnd,
  HarError,
  HarReader,
  isObject,
  type Json,
  normaliseEntry,
  wordHarProblem,
  writeHar,
} from './index';
import type { HarProblem } from './problem';

interface Read {
  readonly entries: Json[];
  readonly end: HarEnd;
}

function read(bytes: Uint8Array, chunkBytes = 64 * 1024): Read {
  const entries: Json[] = [];
  const reader = new HarReader({ onEntry: ({ value }) => entries.push(value) });
  for (let at = 0; at < bytes.length; at += chunkBytes) reader.push(bytes.subarray(at, at + chunkBytes));
  return { entries, end: reader.end() };
}

const readText = (text: string): Read => read(new TextEncoder().encode(text));

const write = ({ entries, end }: Read): string =>
  [
    ...writeHar(end.outline, {
      pages: end.rawPages.map((page) => JSON.stringify(page)),
      entries: entries.map((entry) => JSON.stringify(entry)),
    }),
  ].join('');

function problemOf(text: string): HarProblem | undefined {
  try {
    readText(text);
  } catch (error) {
    if (error instanceof HarError) return error.problem;
    throw error;
  }
  return undefined;
}

describe('HarReader', () => {
  it('names what is missing in a file that is no capture', () => {
    expect(problemOf('')).toEqual({ code: 'empty-file' });
    expect(problemOf('   ')).toMatchObject({ code: 'not-json' });
    expect(problemOf('{"name":"a package"}')).toEqual({
      code: 'not-har',
      where: 'log',
      expected: 'an object',
      found: 'missing',
    });
    expect(problemOf('{"log":[]}')).toEqual({ code: 'not-har', where: 'log', expected: 'an object', found: 'a list' });
    expect(problemOf('{"log":{"entries":{}}}')).toEqual({
      code: 'not-har',
      where: 'log.entries',
      expected: 'a list',
      found: 'an object',
    });
    expect(problemOf('[1,2]')).toMatchObject({ code: 'not-har' });
    expect(problemOf('{"log":{"entries":[{"time"')).toEqual({ code: 'cut-too-early', atByte: 26 });
  });

  it('words every problem as one sentence with what to do about it', () => {
    for (const text of ['', 'no', '{"a":1}', '{"log":{"entries":[{']) {
      const problem = problemOf(text);
      expect(problem).toBeDefined();
      if (problem === undefined) continue;
      const { sentence, advice } = wordHarProblem(problem);
      expect(sentence).toMatch(/^The file .+\.$/);
      expect(advice).toMatch(/\.$/);
    }
  });

  it('keeps a capture without entries: that it is empty is for the condition report to say', () => {
    const { entries, end } = readText('{"log":{"version":"1.2","entries":[]}}');
    expect(entries).toEqual([]);
    expect(end.capture.completeness).toEqual({ type: 'whole' });
  });

  it('keeps every complete entry of a file that is cut at any byte', () => {
    const entries = Array.from({ length: 6 }, (_, at) => ({ at, text: `"}] ${'\\'.repeat(at)} é ${at}` }));
    const bytes = new TextEncoder().encode(JSON.stringify({ log: { version: '1.2', entries } }));
    for (let cut = 1; cut < bytes.length; cut++) {
      const part = bytes.subarray(0, cut);
      let kept: Read;
      try {
        kept = read(part);
      } catch (error) {
        expect(error).toBeInstanceOf(HarError);
        continue;
      }
      expect(kept.end.capture.completeness).toMatchObject({ type: 'cut', atByte: cut });
      expect(kept.entries).toEqual(entries.slice(0, kept.entries.length));
      const partText = new TextDecoder().decode(part);
      const complete = entries.filter((entry) => partText.includes(JSON.stringify(entry))).length;
      expect(kept.entries.length).toBe(complete);
    }
  });

  it('leaves a damaged entry out, counts it and reads the rest', () => {
    const { entries, end } = readText('{"log":{"entries":[{"a":1},{"b":tru},{"c":3}]}}');
    expect(entries).toEqual([{ a: 1 }, { c: 3 }]);
    expect(end.capture.completeness).toEqual({ type: 'damaged', damagedEntries: 1 });
  });

  describe('with one entry damaged', () => {
    const entryAt = (at: number) => ({
      startedDateTime: '2026-10-03T09:00:00Z',
      request: { method: 'GET', url: `https://a.example/${at}`, headers: [{ name: 'x', value: '"}],{"time' }] },
      response: { status: 200, content: { text: `{"time":${at}} ,{"request":{}}` } },
    });
    const entries = [0, 1, 2, 3].map(entryAt);
    const text = JSON.stringify({ log: { version: '1.2', entries, comment: 'after' } });
    const damagedFrom = text.indexOf(JSON.stringify(entries[1]));
    const damagedTo = damagedFrom + JSON.stringify(entries[1]).length;
    const untouched = [entries[0], entries[2], entries[3]];

    it.each([
      ['a byte missing', (at: number) => text.slice(0, at) + text.slice(at + 1)],
      ['a quote too many', (at: number) => `${text.slice(0, at)}"${text.slice(at)}`],
      ['a closing brace too many', (at: number) => `${text.slice(0, at)}}${text.slice(at)}`],
      ['a run of zeros', (at: number) => `${text.slice(0, at)}${'\0'.repeat(20)}${text.slice(at + 20)}`],
    ])('reads all the others, wherever in it there is %s', (_name, damage) => {
      for (let at = damagedFrom; at < damagedTo - 20; at++) {
        const { entries: kept, end } = readText(damage(at));
        const asText = new Set(untouched.map((entry) => JSON.stringify(entry)));
        expect(kept.filter((entry) => asText.has(JSON.stringify(entry)))).toEqual(untouched);
        const { completeness } = end.capture;
        // One damage may be met twice before the next entry is found; it is never passed over in silence.
        if (kept.length === 3) expect(completeness).toMatchObject({ type: 'damaged' });
      }
    });

    it('finds the entries that an unclosed text swallowed to the end of the file', () => {
      const unclosed = text.replace('https://a.example/1"', 'https://a.example/1');
      for (const chunkBytes of [1, 7, 100_000]) {
        const { entries: kept } = read(new TextEncoder().encode(unclosed), chunkBytes);
        for (const entry of untouched) expect(kept).toContainEqual(entry);
      }
    });
  });

  it('reads UTF-16 in both orders, with and without a byte order mark, cut anywhere into chunks', () => {
    const text = '{"log":{"entries":[{"request":{"url":"https://a.example/ma\u00f1ana \ud83d\ude00"}}]}}';
    const little = Buffer.from(text, 'utf16le');
    const big = Buffer.from(little).swap16();
    const marked = [
      Buffer.concat([Buffer.from([0xff, 0xfe]), little]),
      Buffer.concat([Buffer.from([0xfe, 0xff]), big]),
    ];
    for (const bytes of [little, big, ...marked]) {
      for (const chunkBytes of [1, 3, 1000])
        expect(read(bytes, chunkBytes).entries).toEqual(JSON.parse(text).log.entries);
    }
  });

  it('reads creator, browser, pages and the offset of the recorded instants', () => {
    const { end } = readText(
      JSON.stringify({
        log: {
          creator: { name: 'plotter', version: '3' },
          browser: { name: 'wayfarer' },
          pages: [
            {
              id: 'p',
              startedDateTime: '2026-10-03T09:14:07.500+02:00',
              pageTimings: { onContentLoad: 1310, onLoad: -1, _firstPaint: 400 },
            },
          ],
          entries: [],
        },
      }),
    );
    expect(end.capture).toMatchObject({
      recorder: { name: 'plotter', version: '3' },
      browser: { name: 'wayfarer', version: undefined },
      utcOffsetMinutes: 120,
    });
    const [page] = end.capture.pages;
    expect(page?.startedAt).toBe(Date.UTC(2026, 9, 3, 7, 14, 7, 500));
    expect(page?.milestones).toEqual([
      { id: 'other', label: 'first paint', atMs: 400 },
      { id: 'domReady', label: 'DOM ready', atMs: 1310 },
    ]);
  });
});

describe('saving what was read', () => {
  it('is deep-equal for generated captures with hostile keys', () => {
    const key = fc.oneof(
      fc.string(),
      fc.constantFrom('__proto__', 'constructor', 'toString', 'entries', 'pages', 'log', ''),
    );
    const value = fc.jsonValue({ maxDepth: 3 });
    // Built as text: an object literal cannot hold "__proto__" as an own key.
    const object = fc
      .uniqueArray(fc.tuple(key, value), { selector: ([name]) => name, maxLength: 5 })
      .map((pairs) => `{${pairs.map(([name, item]) => `${JSON.stringify(name)}:${JSON.stringify(item)}`).join(',')}}`);
    const har = fc
      .tuple(fc.array(object), fc.array(object, { maxLength: 2 }), object, fc.boolean())
      .map(([entries, pages, extra, pagesLast]) => {
        const lists = [`"pages":[${pages}]`, `"entries":[${entries}]`];
        if (pagesLast) lists.reverse();
        return `{"before":${extra},"log":{"_x":${extra},${lists}},"after":null}`;
      });
    fc.assert(
      fc.property(har, (text) => {
        expect(JSON.parse(write(readText(text)))).toEqual(JSON.parse(text));
      }),
    );
  });

  it('is deep-equal for bare lists and for a log without its wrapper', () => {
    for (const text of [
      '[{"request":{"a":1}}]',
      '{"version":"1.2","entries":[{"a":{"__proto__":[1]}}],"pages":[{}]}',
    ]) {
      expect(JSON.parse(write(readText(text)))).toEqual(JSON.parse(text));
    }
  });

  const folders = ['demo/captures', '../shared/captures'].filter((folder) => existsSync(folder));
  const files = folders.flatMap((folder) =>
    readdirSync(folder)
      .filter((name) => name.endsWith('.har'))
      .map((name) => join(folder, name)),
  );

  it.each(files)('keeps what is whole of the real recording %s, wherever it is cut', (file) => {
    const bytes = readFileSync(file);
    const { entries } = JSON.parse(bytes.toString('utf8')).log as { entries: Json[] };
    const cuts = fc.integer({ min: 1, max: bytes.length - 1 });
    fc.assert(
      fc.property(cuts, (cut) => {
        let kept: Json[] = [];
        try {
          kept = read(bytes.subarray(0, cut)).entries;
        } catch (error) {
          expect(error).toBeInstanceOf(HarError);
        }
        expect(kept).toEqual(entries.slice(0, kept.length));
        // No more than the entry in which the cut lies may be missing.
        const next = entries[kept.length];
        if (kept.length > 0 && next !== undefined) {
          const shown = bytes.subarray(0, cut).toString('utf8');
          expect(shown.includes(JSON.stringify(next))).toBe(false);
        }
      }),
      { numRuns: 12 },
    );
  });

  it.each(files)('is deep-equal for the real recording %s, and every entry of it is read', (file) => {
    const bytes = readFileSync(file);
    const original = JSON.parse(bytes.toString('utf8'));
    const result = read(bytes, 10_007);
    expect(JSON.parse(write(result))).toEqual(original);
    const exchanges = result.entries.map((entry, place) => isObject(entry) && normaliseEntry(entry, place));
    expect(exchanges.length).toBe(original.log.entries.length);
    for (const exchange of exchanges)
      expect(exchange).toMatchObject({ request: { url: expect.stringMatching(/^[a-z]+:/) } });
  });
});
