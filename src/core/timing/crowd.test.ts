import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type ExchangeIndex, NO_PHASES } from '../model';
import { type CrowdStop, findHiddenQueues, isOneAtATime } from './crowd';

const stop = (index: number, startMs: number, timeMs: number, more: Partial<CrowdStop> = {}): CrowdStop => ({
  index: index as ExchangeIndex,
  host: 'a.example',
  kind: 'image',
  protocol: 'http/1.1',
  source: 'network',
  startMs,
  timeMs,
  phases: { ...NO_PHASES, receiveMs: timeMs },
  ...more,
});
const six = (timeMs = 100): CrowdStop[] => Array.from({ length: 6 }, (_, at) => stop(at, at, timeMs));
const queues = (stops: readonly CrowdStop[]): [number, number][] => [...findHiddenQueues(stops)];

describe('queues that a recorder does not count', () => {
  it('are there where a seventh request begins while six older ones are open: until the first of them ends', () => {
    expect(queues([...six(), stop(6, 50, 200)])).toEqual([[6, 50]]);
    // It cannot have queued longer than it lasted.
    expect(queues([...six(), stop(6, 50, 20)])).toEqual([[6, 20]]);
    // The eighth waits for the second to end.
    expect(queues([...six(), stop(6, 50, 200), stop(7, 60, 200)])).toEqual([
      [6, 50],
      [7, 41],
    ]);
  });

  it.each([
    ['with six in all', six()],
    ['once one has ended', [...six(), stop(6, 100, 50)]],
    ['to another host', [...six(), stop(6, 50, 200, { host: 'b.example' })]],
    ['over HTTP/2, which shares one connection', [...six(), stop(6, 50, 200, { protocol: 'h2' })]],
    ['where the recorder counted it', [...six(), stop(6, 50, 200, { phases: { ...NO_PHASES, blockedMs: 50 } })]],
    [
      'where what was received took far less: the recorder left them out',
      [...six(), stop(6, 50, 200, { phases: { ...NO_PHASES, waitMs: 180, receiveMs: 20 } })],
    ],
    ['for what the browser had itself', [...six(), stop(6, 50, 200, { source: 'disk' })]],
    [
      'behind what the browser had itself',
      [...six().map((one) => ({ ...one, source: 'memory' as const })), stop(6, 50, 200)],
    ],
    ['where nothing is known of its times', [...six(), { ...stop(6, 50, 200), timeMs: undefined }]],
  ])('are not there %s', (_, stops) => expect(queues(stops)).toEqual([]));

  it('are never longer than what queued, and do not hang on the order of the file', () => {
    const stops = fc
      .array(fc.tuple(fc.integer({ min: 0, max: 50 }), fc.integer({ min: 0, max: 100 })), { maxLength: 40 })
      .map((times) => times.map(([startMs, timeMs], at) => stop(at, startMs, timeMs)));
    fc.assert(
      fc.property(stops, (all) => {
        const found = findHiddenQueues(all);
        for (const [index, ms] of found) {
          expect(ms).toBeGreaterThan(0);
          expect(ms).toBeLessThanOrEqual(all[index]?.timeMs ?? 0);
        }
        expect(findHiddenQueues([...all].reverse())).toEqual(found);
      }),
    );
  });

  it.each([
    ['http/1.1', true],
    ['HTTP/1.0', true],
    ['h2', false],
    ['h3', false],
    [undefined, false],
  ])('%s carries one request at a time: %s', (protocol, is) => expect(isOneAtATime(protocol)).toBe(is));
});
