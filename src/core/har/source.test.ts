import { existsSync, readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { analyse, takeFacts } from '../analysis';
import type { NameValue, Outcome } from '../model';
import { normaliseEntry } from './normalise';
import { isObject, type Json } from './shape';
import { classifySource, type SourceClues, settleSource } from './source';

const answered = (status: number, headers: readonly NameValue[] = []): Outcome => ({
  type: 'answered',
  response: {
    status,
    statusText: '',
    protocol: undefined,
    headers,
    redirectUrl: undefined,
    mimeType: undefined,
    body: undefined,
  },
});

const NOTHING: SourceClues = {
  url: 'https://x.example/',
  outcome: answered(200),
  requestHeaders: [],
  fromWorker: false,
  fromCache: undefined,
  wasPushed: false,
  fromPrefetch: false,
  transferBytes: undefined,
  headersBytes: undefined,
  wireBodyBytes: undefined,
  bodyBytes: undefined,
};
const CONDITION = [{ name: 'If-None-Match', value: '"a"' }];

describe('classifySource', () => {
  it.each<[string, Partial<SourceClues>, string]>([
    ['worker before everything', { fromWorker: true, fromCache: 'disk' }, 'worker'],
    ['memory', { fromCache: 'memory' }, 'memory'],
    ['disk', { fromCache: 'disk', outcome: answered(304) }, 'disk'],
    ['pushed', { wasPushed: true }, 'pushed'],
    ['no response', { outcome: { type: 'unanswered', reason: 'unknown', recorded: undefined } }, 'none'],
    ['304', { outcome: answered(304) }, 'revalidated'],
    [
      'a 304 shown as 200',
      { requestHeaders: CONDITION, wireBodyBytes: 0, transferBytes: 170, bodyBytes: 5000 },
      'revalidated',
    ],
    [
      'a condition that the server did not meet',
      { requestHeaders: CONDITION, wireBodyBytes: 5000, transferBytes: 5200, bodyBytes: 5000 },
      'network',
    ],
    [
      'a condition answered by a whole small body of unknown length',
      { requestHeaders: CONDITION, transferBytes: 9000, bodyBytes: 9000 },
      'network',
    ],
    [
      'a 304 over HTTP/2 by its Content-Length',
      {
        requestHeaders: CONDITION,
        headersBytes: 0,
        wireBodyBytes: 160,
        transferBytes: 160,
        bodyBytes: 900,
        outcome: answered(200, [{ name: 'content-length', value: '300' }]),
      },
      'revalidated',
    ],
    [
      'a short whole answer over HTTP/2',
      {
        requestHeaders: CONDITION,
        headersBytes: 0,
        wireBodyBytes: 160,
        transferBytes: 160,
        bodyBytes: 90,
        outcome: answered(200, [{ name: 'content-length', value: '60' }]),
      },
      'network',
    ],
    [
      'a 304 over HTTP/2 without Content-Length',
      { requestHeaders: CONDITION, headersBytes: 0, wireBodyBytes: 27, transferBytes: 27, bodyBytes: 900 },
      'revalidated',
    ],
    ...(
      [
        [1024, 'revalidated'],
        [1025, 'network'],
      ] as const
    ).map(([transferBytes, source]): [string, Partial<SourceClues>, string] => [
      `${transferBytes} bytes that crossed after a condition, of a body of more`,
      { requestHeaders: CONDITION, transferBytes, bodyBytes: 9000 },
      source,
    ]),
    ['a body out of nothing', { transferBytes: 0, bodyBytes: 812, wireBodyBytes: undefined }, 'cache'],
    ['an empty answer out of nothing', { transferBytes: 0, bodyBytes: 0 }, 'network'],
    ['a kept error out of nothing', { transferBytes: 0, bodyBytes: 9, outcome: answered(404) }, 'cache'],
    ['a data: address', { url: 'data:image/png;base64,AA' }, 'unknown'],
  ])('finds %s', (_name, clues, source) => {
    expect(classifySource({ ...NOTHING, ...clues }).value).toBe(source);
  });
});

describe('settleSource', () => {
  const around = { workerControlsPage: false, neighboursHaveWireHeaders: true };
  const clues = {
    source: { value: 'cache', evidence: '' },
    status: 200,
    hasServerAddress: false,
    hasWireHeaders: true,
  } as const;
  const network = { ...clues, source: { value: 'network', evidence: '' } } as const;

  it("makes of a cache hit without a server a worker's answer only where a worker is at work", () => {
    expect(settleSource(clues, around).value).toBe('cache');
    expect(settleSource(clues, { ...around, workerControlsPage: true }).value).toBe('worker');
    expect(settleSource({ ...clues, hasServerAddress: true }, { ...around, workerControlsPage: true }).value).toBe(
      'cache',
    );
  });

  it('takes a redirect that never went out as kept, and no other status', () => {
    expect(settleSource({ ...network, status: 301, hasWireHeaders: false }, around).value).toBe('cache');
    expect(settleSource({ ...network, status: 301, hasWireHeaders: true }, around).value).toBe('network');
    expect(settleSource({ ...network, status: 200, hasWireHeaders: false }, around).value).toBe('network');
    expect(
      settleSource({ ...network, status: 301, hasWireHeaders: false }, { ...around, neighboursHaveWireHeaders: false })
        .value,
    ).toBe('network');
  });
});

const LAB = '../shared/captures/cache-lab-sametab';

describe.skipIf(!existsSync(`${LAB}.har`))('against what the server saw', () => {
  it("calls every second load as the server's log has it", () => {
    const { log } = JSON.parse(readFileSync(`${LAB}.har`, 'utf8')) as { log: { entries: Json[] } };
    const truth = JSON.parse(readFileSync(`${LAB}.truth.json`, 'utf8')) as {
      resources: Record<string, { second_load: string }>;
    };
    const facts = log.entries.flatMap((entry, place) =>
      isObject(entry) ? takeFacts(normaliseEntry(entry, place)) : [],
    );
    const { rows } = analyse(facts, [], { type: 'whole' });
    const expected = { 'not requested': 'cache', 'revalidated 304': 'revalidated', 'fetched 200': 'network' } as const;
    const wrong: string[] = [];
    let checked = 0;
    for (const [path, { second_load: second }] of Object.entries(truth.resources)) {
      const own = rows.filter((row) => row.url.endsWith(path));
      const last = own.at(-1);
      const want = expected[second as keyof typeof expected];
      if (last === undefined || own.length < 2 || want === undefined) continue;
      checked++;
      if (last.source !== want) wrong.push(`${path}: ${last.source}, the server says ${second}`);
    }
    expect(wrong).toEqual([]);
    expect(checked).toBeGreaterThan(35);
  });
});
