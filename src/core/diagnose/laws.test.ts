import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Finding, RULE_IDS } from './index';
import { foundIn, type Sketch } from './testing/sketch';

// What holds for every finding of every capture, however odd.

const word = fc.constantFrom('huts', 'beds', 'a.41ab.js', 'photo.webp', '', '%00', '?page=1', 'ü');
const header = fc.record(
  {
    'cache-control': fc.constantFrom('no-store', 'max-age=60', 'public, max-age=600', 'max-age=x', 'private'),
    etag: fc.constant('"a"'),
    vary: fc.constantFrom('User-Agent', '*', 'Accept'),
    location: fc.constantFrom('/huts', '/beds', 'https://maps.example/'),
    'content-length': fc.constantFrom('3', '9000', 'x'),
    'content-encoding': fc.constantFrom('gzip', 'br'),
    'retry-after': fc.constantFrom('1', 'soon'),
    'set-cookie': fc.constantFrom('a=1; Max-Age=1; Path=/', 'b=2'),
    date: fc.constantFrom('Sat, 03 Oct 2026 10:00:00 GMT', 'never'),
    'server-timing': fc.constantFrom('db;dur=300, render;dur=x', ';;'),
    'x-cache': fc.constantFrom('MISS', 'HIT'),
  },
  { requiredKeys: [] },
);
const sketch: fc.Arbitrary<Sketch> = fc
  .record(
    {
      url: fc
        .tuple(fc.constantFrom('', 'https://img.cumbrera.example', 'http://maps.example', 'data:'), word)
        .map((parts) => parts.join('/')),
      at: fc.integer({ min: -50, max: 3000 }),
      method: fc.constantFrom('GET', 'POST', 'OPTIONS', 'HEAD', 'DELETE'),
      status: fc.constantFrom(0, 101, 200, 204, 206, 301, 302, 304, 401, 403, 404, 429, 500, 503),
      kind: fc.constantFrom(
        'document',
        'script',
        'stylesheet',
        'image',
        'font',
        'fetch',
        'websocket',
        'eventsource',
        'ping',
      ),
      wait: fc.constantFrom(-1, 0, 30, 700),
      download: fc.constantFrom(-1, 0, 30, 900),
      blocked: fc.constantFrom(-1, 0, 80),
      connect: fc.constantFrom(-1, 0, 60),
      request: fc.constantFrom(
        {},
        { authorization: 'Bearer x.y.z' },
        { cookie: 'a'.repeat(1200) },
        { origin: 'https://b.example', 'access-control-request-method': 'PUT' },
      ),
      response: header,
      body: fc.constantFrom('', 'abc', '{"errors":[{"message":"full"}]}', '<!doctype html>', `"${'x'.repeat(3000)}"`),
      type: fc.constantFrom('text/html', 'application/json', 'image/webp', 'text/javascript', ''),
      size: fc.constantFrom(-1, 0, 400_000),
      wire: fc.constantFrom(-1, 0, 200, 400_000),
      protocol: fc.constantFrom('h2', 'http/1.1', ''),
      failure: fc.constantFrom('net::ERR_ABORTED', 'net::ERR_TOO_MANY_REDIRECTS', 'odd'),
      page: fc.constantFrom('p', 'q'),
    },
    { requiredKeys: ['url'] },
  )
  .map((one) => one as Sketch);
const captures = fc.record({
  sketches: fc.array(sketch, { maxLength: 30 }),
  timings: fc.record(
    { onContentLoad: fc.integer({ min: 1, max: 2000 }), onLoad: fc.integer({ min: 1, max: 5000 }) },
    { requiredKeys: [] },
  ),
});

/** Every number and word that a finding shows to somebody. */
const textsOf = ({ claim, detail, remedy }: Finding): string[] => [claim, detail, remedy];

describe('every finding', () => {
  it('stands on exchanges of the capture, in whole sentences, with costs that can be', () => {
    fc.assert(
      fc.property(captures, ({ sketches, timings }) => {
        const { findings, byPage } = foundIn(sketches, timings);
        for (const finding of [findings, ...Object.values(byPage)].flat()) {
          expect(RULE_IDS).toContain(finding.rule);
          const { evidence, cost, claim, remedy } = finding;
          expect(evidence.every((index) => index >= 0 && index < sketches.length)).toBe(true);
          expect(new Set(evidence).size, `${finding.rule} names one twice`).toBe(evidence.length);
          for (const amount of [cost.routeMs, cost.wireBytes])
            if (amount !== undefined) expect(amount, finding.rule).toBeGreaterThan(0);
          expect(claim.length).toBeGreaterThan(8);
          expect(claim).not.toMatch(/\.$/);
          expect(remedy).toMatch(/\.$/);
          for (const text of textsOf(finding)) expect(text).not.toMatch(/NaN|undefined|null|\[object|Infinity/);
        }
      }),
      { numRuns: 150 },
    );
  });

  it('costs its load no more than the load took', () => {
    fc.assert(
      fc.property(captures, ({ sketches, timings }) => {
        const { onLoad } = timings;
        fc.pre(onLoad !== undefined);
        const { findings } = foundIn(
          sketches.map((one) => ({ ...one, at: Math.abs(one.at ?? 0), page: 'p' })),
          timings,
        );
        for (const { rule, cost } of findings)
          expect(cost.routeMs ?? 0, rule).toBeLessThanOrEqual((onLoad ?? 0) + 0.01);
      }),
      { numRuns: 150 },
    );
  });

  it('is the same again, comes dearest first, and notes come last', () => {
    fc.assert(
      fc.property(captures, ({ sketches, timings }) => {
        const { findings } = foundIn(sketches, timings);
        expect(foundIn(sketches, timings).findings).toEqual(findings);
        const real = findings.filter(({ severity }) => severity !== 'note');
        expect(findings.slice(0, real.length)).toEqual(real);
        const costs = real.map(({ cost }) => cost.routeMs ?? 0);
        expect(costs).toEqual([...costs].sort((a, b) => b - a));
      }),
      { numRuns: 60 },
    );
  });
});
