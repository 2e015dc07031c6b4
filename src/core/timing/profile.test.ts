import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NO_PHASES } from '../model';
import { cumulateBytes } from './bytes';
import { idleMs, type ProfileSpan, profileInFlight } from './profile';

const span = (startMs: number, setup: number, wait: number, download: number): ProfileSpan => ({
  startMs,
  timeMs: setup + wait + download,
  phases: { ...NO_PHASES, connectMs: setup, waitMs: wait, receiveMs: download },
});

describe('profileInFlight', () => {
  it('counts by what each exchange is doing, exact at every change', () => {
    const { steps, max } = profileInFlight([span(0, 10, 20, 30), span(20, 0, 20, 0)]);
    expect(steps).toEqual([
      { atMs: 0, settingUp: 1, waiting: 0, downloading: 0 },
      { atMs: 10, settingUp: 0, waiting: 1, downloading: 0 },
      { atMs: 20, settingUp: 0, waiting: 2, downloading: 0 },
      { atMs: 30, settingUp: 0, waiting: 1, downloading: 1 },
      { atMs: 40, settingUp: 0, waiting: 0, downloading: 1 },
      { atMs: 60, settingUp: 0, waiting: 0, downloading: 0 },
    ]);
    expect(max).toBe(2);
  });

  it('does not count two at once where one starts when the other ends', () => {
    expect(profileInFlight([span(0, 0, 10, 0), span(10, 0, 10, 0)]).max).toBe(1);
  });

  it('counts an exchange without phases as waiting for its whole length', () => {
    const { steps } = profileInFlight([{ startMs: 5, timeMs: 10, phases: NO_PHASES }]);
    expect(steps.map(({ atMs, waiting }) => [atMs, waiting])).toEqual([
      [5, 1],
      [15, 0],
    ]);
  });

  it('agrees with plain counting at every moment, and its idle time with it too', () => {
    const length = fc.integer({ min: 0, max: 40 });
    const spans = fc.array(fc.tuple(fc.integer({ min: 0, max: 300 }), length, length, length), { maxLength: 30 });
    const window = fc.tuple(fc.integer({ min: 0, max: 450 }), fc.integer({ min: 0, max: 450 }));
    fc.assert(
      fc.property(spans, window, (raw, [one, other]) => {
        const all = raw.map(([start, setup, wait, download]) => span(start, setup, wait, download));
        const profile = profileInFlight(all);
        const openAt = (ms: number): number =>
          all.filter((one) => one.startMs <= ms && ms < one.startMs + one.timeMs).length;
        const [from, to] = [Math.min(one, other), Math.max(one, other)];
        let idle = 0;
        let idleInside = 0;
        for (let ms = 0; ms < 450; ms++) {
          const step = profile.steps.findLast(({ atMs }) => atMs <= ms);
          const open = step === undefined ? 0 : step.settingUp + step.waiting + step.downloading;
          expect(open).toBe(openAt(ms));
          if (open === 0) idle++;
          if (open === 0 && ms >= from && ms < to) idleInside++;
        }
        expect(idleMs(profile, 0, 450)).toBe(idle);
        expect(idleMs(profile, from, to)).toBe(idleInside);
      }),
    );
  });
});

describe('bytes over time', () => {
  const span = (startMs: number, timeMs: number, receiveMs: number | undefined, wireBytes: number | undefined) => ({
    startMs,
    timeMs,
    wireBytes,
    phases: { ...NO_PHASES, receiveMs },
  });

  it('come evenly while they are downloaded, at the end without a download, and add up', () => {
    expect(
      cumulateBytes([
        span(0, 100, 50, 1000),
        span(0, 75, 25, 500),
        span(0, 80, undefined, 10),
        span(0, 9, 9, undefined),
      ]),
    ).toEqual([
      { atMs: 50, bytes: 0 },
      { atMs: 50, bytes: 0 },
      { atMs: 75, bytes: 1000 },
      { atMs: 80, bytes: 1100 },
      { atMs: 80, bytes: 1110 },
      { atMs: 100, bytes: 1510 },
    ]);
    expect(cumulateBytes([])).toEqual([]);
  });
});
