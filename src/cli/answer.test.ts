import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';

const FIRST_VISIT = 'demo/captures/alba-norte-first-visit.har';
const FIXED = 'demo/captures/alba-norte-fixed-release.har';
/** As its recorder wrote them. */
const { onContentLoad, onLoad } = JSON.parse(readFileSync(FIRST_VISIT, 'utf8')).log.pages[0].pageTimings;
const READY = `${Math.round(onContentLoad)} ms`;
const LOADED = `${(onLoad / 1000).toFixed(2)} s`;

const explain = (file: string) => JSON.parse(runCli(['explain', file, '--json']).stdout.toString());
const sum = (values: Record<string, number>): number => Object.values(values).reduce((total, ms) => total + ms, 0);

describe('trazado explain', () => {
  it("prints the contract's members, its legs tiling the load and its ledger adding up to it", () => {
    const told = explain(FIRST_VISIT);
    expect(told).toMatchObject({
      target: 'loaded',
      targetMs: expect.any(Number),
      sentence: expect.stringMatching(
        /^Loaded in \d\.\d\d s\. .+ went to waiting for api\.cumbrera\.example to respond, most of it for graphql HutCard \(#77\)/,
      ),
      inFlight: { max: expect.any(Number), idleMs: expect.any(Number) },
    });
    let at = told.legs[0].startMs;
    for (const leg of told.legs) {
      expect(leg.startMs).toBeCloseTo(at, 6);
      at = leg.endMs;
    }
    expect(at).toBeCloseTo(told.targetMs, 6);
    expect(Math.abs(sum(told.ledger) - (told.targetMs - told.legs[0].startMs))).toBeLessThan(0.01);
    // The photo waited for the answer that named it, and that for the session.
    expect(told.legs.flatMap(({ index }: { index?: number }) => index ?? []).slice(-3)).toEqual([76, 77, 139]);
    expect(told.cache).toContainEqual(
      expect.objectContaining({
        index: 3,
        storable: true,
        // Expires is a whole second, and the response came within one.
        freshSeconds: 299,
        nextVisit: expect.objectContaining({ minute: 'reused' }),
      }),
    );
  });

  it('finds at least twelve different matters on the first visit, and the ones that the fixed release repaired gone', () => {
    const rulesOf = (file: string): Set<string> =>
      new Set(explain(file).findings.map(({ rule }: { rule: string }) => rule));
    const [before, after] = [rulesOf(FIRST_VISIT), rulesOf(FIXED)];
    expect(before.size).toBeGreaterThanOrEqual(12);
    for (const repaired of ['sent-uncompressed', 'slow-server', 'asked-twice', 'in-a-row', 'never-kept', 'too-many']) {
      expect(before).toContain(repaired);
      expect(after).not.toContain(repaired);
    }
  });

  it('is readable without --json: each leg by its name and why it came, each finding with its cost', () => {
    const text = runCli(['explain', FIRST_VISIT]).stdout.toString();
    expect(text.startsWith(`Loaded in ${LOADED}. `)).toBe(true);
    expect(text).toMatch(/^ +\d+ ms +\d+ ms {2}\/huts\/alba-norte #2: .*redirected here$/m);
    expect(text).toMatch(
      /^ +\d+ ms +\d+ ms {2}gap between \/huts\/alba-norte and atlas\.41ab\.js; in flight meanwhile: #3, #4$/m,
    );
    expect(text).toMatch(/^ {4}costly, up to \d+ ms of the load, 916 kB on the wire: #6$/m);
    expect(text).toMatch(/: #17 #18 #19 #20 #21 #22 #23 #24 and 26 more$/m);
  });

  it.each([
    ['dom-ready', 'domReady', `DOM ready after ${READY}. `, 6],
    ['#77', 'exchange', 'graphql HutCard (#77) ended after 2.00 s. ', 77],
    ['loaded', 'loaded', `Loaded in ${LOADED}. `, 139],
  ])('plots the route to %s', (goal, target, sentence, last) => {
    const told = JSON.parse(runCli(['explain', FIRST_VISIT, '--to', goal, '--json']).stdout.toString());
    expect(told.target).toBe(target);
    expect(told.sentence.startsWith(sentence)).toBe(true);
    const indexes = told.legs.flatMap(({ index }: { index?: number }) => index ?? []);
    expect(indexes.at(-1)).toBe(last);
    expect(told.legs.at(-1).endMs).toBeCloseTo(told.targetMs, 6);
  });

  it.each([
    ['the moon', /^trazado: There is no "the moon" to go to; there are loaded, dom-ready, and exchanges, as #12\.\n$/],
    ['#999', /^trazado: There is no exchange #999; the capture has 145\.\n$/],
  ])('says in one line that no route leads to %s', (goal, says) => {
    const { status, stderr } = runCli(['explain', FIRST_VISIT, '--to', goal]);
    expect([status, stderr]).toEqual([2, expect.stringMatching(says)]);
  });

  it('says in one line what is wrong with the page asked for', () => {
    const { status, stderr } = runCli(['explain', FIRST_VISIT, '--page', 'none']);
    expect(status).toBe(2);
    expect(stderr).toMatch(/^trazado: There is no page "none"; the capture has .+\n$/);
  });
});

describe('trazado check', () => {
  it('exits with 0 where all is within its budget', () => {
    const { status, stdout } = runCli(['check', FIRST_VISIT, '--max', 'loaded=3s', '--max', 'exchanges=145']);
    expect([status, stdout.toString()]).toEqual([
      0,
      `ok    loaded: ${LOADED}, at most 3.00 s allowed\nok    exchanges: 145, at most 145 allowed\n`,
    ]);
  });

  it('exits with 1 and names what is over', () => {
    const args = [
      'check',
      FIRST_VISIT,
      '--max',
      'wire=1.5MB',
      '--no-finding',
      'sent-uncompressed',
      '--no-finding',
      'no-answer',
    ];
    const { status, stdout } = runCli([...args, '--json']);
    expect(status).toBe(1);
    expect(JSON.parse(stdout.toString())).toMatchObject({
      passed: false,
      checked: [
        { name: 'wire', isOver: true, most: 1_500_000, unit: 'bytes' },
        { name: 'sent-uncompressed', isOver: true, exchanges: [6] },
        { name: 'sent-uncompressed', isOver: true, exchanges: [55, 56] },
        { name: 'no-answer', isOver: false },
      ],
    });
    const junit = runCli([...args, '--junit']).stdout.toString();
    expect(junit).toContain('tests="4" failures="3"');
    expect(junit).toContain('message="wire: at least 1.9 MB, at most 1.5 MB allowed">value: ');
  });

  it('takes an unknown value for over', () => {
    const { status, stdout } = runCli(['check', 'demo/captures/booking-gone-wrong.har', '--max', 'loaded=9min']);
    expect(status).toBe(1);
    expect(stdout.toString()).toMatch(
      /^over {2}loaded: unknown on page \S+#1, at most 540.00 s allowed\nok {4}loaded: \d+ ms on page \S+#2,/,
    );
  });

  it.each([
    [['--max', 'size=3'], /"size=3" is not a budget/],
    [['--max', 'loaded=3MB'], /"loaded=3MB" has a unit that loaded is not measured in/],
    [['--no-finding', 'sloth'], /Unknown rule "sloth"; use one of .*slow-server/],
    [[], /Nothing to check/],
  ])('%j is refused in one line', (args, says) => {
    const { status, stderr } = runCli(['check', FIRST_VISIT, ...args]);
    expect([status, stderr]).toEqual([2, expect.stringMatching(says)]);
  });
});
