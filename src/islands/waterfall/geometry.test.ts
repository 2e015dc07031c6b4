import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { analyse, takeFacts } from '#core/analysis';
import { phaseAt, type Scale, stairsOf, ticksOf, toMs, toPx, wholeOf } from '#core/chart';
import { type JsonObject, normaliseEntry } from '#core/har';
import { profileInFlight } from '#core/timing';
import { arrange, choosePage } from './arrange';
import { byteLine, endMarkOf, PROFILE_LEVELS, placeFlags, profileOutline } from './geometry';

const SCALE: Scale = { fromMs: 0, toMs: 1000, widthPx: 500 };
const ZERO = Date.UTC(2026, 9, 3);

const rowsOf = (...entries: { at: number; page?: string; timings?: Record<string, number>; time?: number }[]) =>
  analyse(
    entries.map(({ at, page, ...rest }, place) =>
      takeFacts(
        normaliseEntry(
          {
            pageref: page,
            startedDateTime: new Date(ZERO + at).toISOString(),
            request: { url: 'https://a.example/' },
            response: { status: 200 },
            ...rest,
          } as unknown as JsonObject,
          place,
        ),
      ),
    ),
    [],
    { type: 'whole' },
  ).rows;

describe('the scale', () => {
  it('shows everything, from 0 or the earliest start, with a little room at the end', () => {
    expect(wholeOf([900, 2000, -100, 5])).toEqual({ fromMs: -100, toMs: 2000 + 2100 * 0.04 });
    expect(wholeOf([])).toEqual({ fromMs: 0, toMs: 1000 });
  });

  it('leads from moments to pixels and back', () => {
    expect(toPx(SCALE, 500)).toBe(250);
    expect(toMs(SCALE, 250)).toBe(500);
  });
});

describe('the ticks', () => {
  it('hold 0, are round, in order, never closer than asked, and each reads differently', () => {
    const spans = fc.record({
      fromMs: fc.double({ min: -5000, max: 0, noNaN: true }),
      toMs: fc.double({ min: 0.5, max: 600_000, noNaN: true }),
    });
    fc.assert(
      fc.property(spans, fc.integer({ min: 200, max: 3000 }), ({ fromMs, toMs }, widthPx) => {
        const ticks = ticksOf({ fromMs, toMs, widthPx }, 90);
        expect(ticks.map(({ atMs }) => atMs)).toContain(0);
        expect(new Set(ticks.map(({ label }) => label)).size).toBe(ticks.length);
        for (let at = 1; at < ticks.length; at++)
          expect((ticks[at]?.px ?? 0) - (ticks[at - 1]?.px ?? 0)).toBeGreaterThanOrEqual(89.999);
      }),
    );
  });

  it('change from ms to s', () => {
    expect(ticksOf({ fromMs: 0, toMs: 2000, widthPx: 500 }, 90).map(({ label }) => label)).toEqual([
      '0 ms',
      '500 ms',
      '1 s',
      '1.5 s',
      '2 s',
    ]);
  });
});

describe('the stairs', () => {
  it('rise phase by phase, end where the exchange ends, and leave out what did not happen', () => {
    const [row] = rowsOf({
      at: 0,
      timings: { blocked: 20, dns: -1, connect: 60, ssl: 30, send: 0, wait: 200, receive: 100 },
    });
    if (row === undefined) throw new Error('no row');
    const steps = stairsOf(row, 100, SCALE);
    expect(steps.map(({ phase }) => phase)).toEqual(['blockedMs', 'connectMs', 'tlsMs', 'waitMs', 'receiveMs']);
    for (let at = 1; at < steps.length; at++) {
      const [before, step] = [steps[at - 1], steps[at]];
      expect(step?.fromPx).toBeCloseTo((before?.fromPx ?? 0) + (before?.widthPx ?? 0));
      expect(step?.height).toBeGreaterThan(before?.height ?? 0);
    }
    const last = steps.at(-1);
    expect((last?.fromPx ?? 0) + (last?.widthPx ?? 0)).toBeCloseTo(toPx(SCALE, 480));
    expect(last?.height).toBe(1);
  });

  it('are one unknown step without phases, and none without a length', () => {
    const [timed, untimed] = rowsOf({ at: 0, time: 40 }, { at: 0 });
    expect(timed && stairsOf(timed, 0, SCALE)).toEqual([{ phase: 'unknown', fromPx: 0, widthPx: 20, height: 0.5 }]);
    expect(untimed && stairsOf(untimed, 0, SCALE)).toEqual([]);
  });
});

describe("the profile's outline", () => {
  it('starts and ends on the ground and touches the top at the most', () => {
    const rows = rowsOf({ at: 0, time: 100 }, { at: 50, time: 100 });
    const { steps, max } = profileInFlight(
      rows.map((row) => ({ startMs: row.startMs ?? 0, timeMs: row.timeMs ?? 0, phases: row.phases })),
    );
    const outline = (level: keyof typeof PROFILE_LEVELS, scale = SCALE) =>
      profileOutline(steps, PROFILE_LEVELS[level], max, scale, 40);
    expect(outline('settingUp')).toBe('0,40 0,20 25,20 25,0 50,0 50,20 75,20 75,40');
    expect(outline('downloading')).toBe('0,40 0,40 25,40 25,40 50,40 50,40 75,40 75,40');
    expect(profileOutline([], PROFILE_LEVELS.settingUp, 0, SCALE, 40)).toBe('');
    // All of it within one pixel: its top is still seen.
    expect(outline('settingUp', { fromMs: 0, toMs: 1e6, widthPx: 500 })).toBe('0,40 0,0 0,40');
  });
});

describe('the bytes over time', () => {
  it('rise from the ground to the top', () => {
    const points = [
      { atMs: 0, bytes: 0 },
      { atMs: 500, bytes: 50 },
      { atMs: 1000, bytes: 100 },
    ];
    expect(byteLine(points, SCALE, 40)).toBe('0,40 250,20 500,0');
    expect(byteLine([], SCALE, 40)).toBe('');
  });
});

describe('the phase at a moment', () => {
  it('is read off the stairs, with how far into it the moment is', () => {
    const [row] = rowsOf({ at: 0, timings: { blocked: 20, dns: -1, connect: -1, send: 0, wait: 200, receive: 100 } });
    if (row === undefined) throw new Error('no row');
    expect(phaseAt(row, 100, 110)).toEqual({ phase: 'blockedMs', sinceMs: 10, lengthMs: 20 });
    expect(phaseAt(row, 100, 130)).toEqual({ phase: 'waitMs', sinceMs: 10, lengthMs: 200 });
    expect(phaseAt(row, 100, 420)).toEqual({ phase: 'receiveMs', sinceMs: 100, lengthMs: 100 });
    expect(phaseAt(row, 100, 421)).toBeUndefined();
    expect(phaseAt(row, 100, 99)).toBeUndefined();
  });
});

describe('the mark at the end', () => {
  const of = (entry: Record<string, unknown>, lastMs = 1000) => {
    const [row] = rowsOf({ at: 0, time: 100, ...entry } as Parameters<typeof rowsOf>[0]);
    return row && endMarkOf(row, 100, lastMs);
  };
  it('tells failed, cut, redirected and still open ones apart, and leaves plain ones bare', () => {
    expect(of({})).toBeUndefined();
    expect(of({ response: { status: 404 } })).toBe('failed');
    expect(of({ response: { status: 200, _error: 'reset' } })).toBe('torn');
    expect(of({ response: { status: 302 } })).toBe('hop');
    expect(of({ response: { status: 304 } })).toBeUndefined();
    expect(of({ response: { status: 0 } }, 110)).toBe('open');
    expect(of({ response: { status: 0 } })).toBe('failed');
    expect(of({ response: { status: 101 }, _resourceType: 'websocket' }, 110)).toBe('open');
    expect(of({ response: { status: 101 }, _resourceType: 'websocket' })).toBeUndefined();
  });
});

describe('the flags', () => {
  it('never overlap, and stay inside the chart', () => {
    const milestones = fc.array(
      fc.record({
        label: fc.constantFrom('DOM ready', 'loaded', 'first paint'),
        atMs: fc.integer({ min: 0, max: 1000 }),
      }),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(milestones, (unsorted) => {
        const flags = placeFlags(
          [...unsorted].sort((a, b) => a.atMs - b.atMs),
          SCALE,
        );
        const boxes = flags.map(({ label, px, level, toLeft }) => {
          const width = label.length * 7 + 16;
          return { from: toLeft ? px - width : px, to: toLeft ? px : px + width, level };
        });
        for (const [at, a] of boxes.entries()) {
          expect(a.to).toBeLessThanOrEqual(SCALE.widthPx + 0.001);
          for (const b of boxes.slice(at + 1))
            expect(a.level !== b.level || a.to <= b.from || b.to <= a.from).toBe(true);
        }
      }),
    );
  });
});

describe('the arrangement', () => {
  const page = (id: string) => ({
    id,
    title: '',
    startedAt: undefined,
    domReadyMs: undefined,
    loadedMs: undefined,
    milestones: [],
    exchanges: 0,
  });
  const pages = ['a', 'b'].map(page) as unknown as Parameters<typeof arrange>[1];

  it('orders by start; ties and unknown starts keep the order of the file', () => {
    const rows = rowsOf({ at: 50 }, { at: 10 }, { at: 50 });
    const unknown = {
      ...rows[0],
      index: 3,
      startMs: undefined,
      startedAt: undefined,
    } as unknown as (typeof rows)[number];
    const { placed } = arrange([unknown, ...rows], [], undefined);
    expect(placed.map(({ row }) => row.index)).toEqual([1, 0, 2, 3]);
    expect(placed.at(-1)?.startMs).toBeUndefined();
  });

  it('takes the page asked for, the first where there is no such page, or all of them', () => {
    expect(choosePage(pages, 'b')?.id).toBe('b');
    expect(choosePage(pages, 'gone')?.id).toBe('a');
    expect(choosePage(pages, 'all')).toBeUndefined();
    expect(choosePage([], undefined)).toBeUndefined();
  });
});
