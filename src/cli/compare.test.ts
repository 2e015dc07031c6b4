import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';

const demo = (name: string): string => `demo/captures/alba-norte-${name}.har`;
const [FIRST, FIXED] = [demo('first-visit'), demo('fixed-release')];
const BOOKING = 'demo/captures/booking-gone-wrong.har';
const folder = mkdtempSync(join(tmpdir(), 'trazado-compare-'));

/** A load of one document that took so long, on a host. */
function fileOf(name: string, waitMs: number, host = 'www.cumbrera.example'): string {
  const path = join(folder, `${name}.har`);
  const pages = [
    { id: 'p', title: name, startedDateTime: '2026-10-03T09:00:00Z', pageTimings: { onLoad: waitMs + 11 } },
  ];
  const entries = [
    {
      pageref: 'p',
      startedDateTime: '2026-10-03T09:00:00Z',
      _resourceType: 'document',
      request: { method: 'GET', url: `https://${host}/`, headers: [] },
      response: { status: 200, headers: [], content: { size: 0, mimeType: 'text/html' } },
      timings: { send: 0, wait: waitMs, receive: 1 },
    },
  ];
  writeFileSync(path, JSON.stringify({ log: { version: '1.2', pages, entries } }));
  return path;
}

const run = (...args: string[]) => {
  const { status, stdout, stderr } = runCli(args);
  return { status, stdout: stdout.toString(), stderr };
};

describe('trazado compare', () => {
  it('says what differs, how much, and what made it', () => {
    const { status, stdout } = run('compare', FIRST, FIXED);
    expect(status).toBe(0);
    expect(stdout).toMatch(/^Loaded in 1\.03 s instead of 2\.83 s: 1\.80 s sooner\.\n/);
    expect(stdout).not.toContain('\n\n\n');
    expect(stdout).toMatch(/What made the difference\n +−1\.\d\d s {2}\/photos\/\{\}\.webp: 43 → 12 exchanges/);
    expect(stdout).toContain('\nWhere the time went\n');
    expect(stdout).toMatch(/\n {2}gone {4}atlas\.41ab\.js is sent uncompressed/);
  });

  it('prints the same as JSON, whose sums are exact', () => {
    const { stdout } = run('compare', FIRST, FIXED, '--json');
    const told = JSON.parse(stdout) as {
      goal: string;
      differenceMs: number;
      ledger: Record<string, { aMs: number; bMs: number }[]>;
      causes: { causes: { ms: number }[]; othersMs: number; notExplainedMs: number };
      pairs: { a?: number; b?: number }[];
      counts: Record<string, number>;
    };
    expect(told.goal).toBe('loaded');
    for (const name of ['byPhase', 'byHost', 'byParty']) {
      const sum = (told.ledger[name] ?? []).reduce((all, { aMs, bMs }) => all + bMs - aMs, 0);
      expect(sum).toBeCloseTo(told.differenceMs, 6);
    }
    const { causes, othersMs, notExplainedMs } = told.causes;
    expect(causes.reduce((sum, { ms }) => sum + ms, othersMs + notExplainedMs)).toBeCloseTo(told.differenceMs, 6);
    expect(told.pairs.filter(({ a }) => a !== undefined)).toHaveLength(145);
    expect(told.pairs.filter(({ b }) => b === undefined)).toHaveLength(told.counts['gone'] ?? -1);
  });

  it('takes several files a side, and one group of them', () => {
    const files = [90, 100, 110, 120, 900].map((waitMs, at) => fileOf(`load-${at}`, waitMs));
    const sides = run('compare', ...files.slice(0, 4), fileOf('new', 60), '--sides', '4,1', '--json');
    expect(JSON.parse(sides.stdout)).toMatchObject({ differenceMs: -45, a: { medianMs: 116 }, b: { medianMs: 71 } });
    const group = run('compare', ...files);
    expect(group.stdout).toMatch(
      /^1 of 5 loads is slow: 795 ms more than the others in the median\.\nMost of it comes with the endpoint GET www\.cumbrera\.example\/: /,
    );
  });

  it('compares pages of one capture, and maps hosts', () => {
    const { stdout } = run('compare', `${BOOKING}#1`, `${BOOKING}#2`, '--json');
    expect(JSON.parse(stdout)).toMatchObject({ a: { loads: [{ exchanges: 30 }] }, b: { loads: [{ exchanges: 7 }] } });
    const staging = fileOf('staging', 100, 'staging.cumbrera.example');
    const own = fileOf('own', 100);
    expect(JSON.parse(run('compare', staging, own, '--json').stdout)).toMatchObject({ counts: { gone: 1, new: 1 } });
    const mapped = run('compare', staging, own, '--map', 'staging.cumbrera.example=www.cumbrera.example', '--json');
    expect(JSON.parse(mapped.stdout)).toMatchObject({ counts: { gone: 0, new: 0, same: 1 } });
    const slip = run('compare', staging, own, '--map', 'stagign.cumbrera.example:8443=www.cumbrera.example');
    expect(slip.stderr).toContain('--map: no exchange goes to stagign.cumbrera.example:8443.');
    expect(mapped.stderr).toBe('');
  });

  it('says what cannot be said: of one load twice, of other sites, of what is empty', () => {
    expect(run('compare', FIXED, FIXED).stdout).toContain('Both sides are the same load: nothing can differ.');
    const elsewhere = fileOf('elsewhere', 100, 'topolines.example');
    expect(run('compare', fileOf('here', 100), elsewhere).stdout).toContain('The sides have no host in common.');
    const empty = join(folder, 'empty.har');
    writeFileSync(empty, JSON.stringify({ log: { version: '1.2', entries: [] } }));
    expect(run('compare', empty, FIXED)).toMatchObject({
      status: 0,
      stdout: expect.stringContaining('"empty.har" contains no exchanges.'),
    });
    expect(run('compare', empty, empty).stdout).toContain('Neither side has exchanges.');
  });

  it.each([
    [[FIXED], 'One file alone cannot be compared: name a second one.'],
    [[FIXED, FIRST, BOOKING], 'What slow loads share can be told of 5 loads and more'],
    [[FIXED, FIRST, '--sides', '1,2'], '--sides 1,2 are 3 files, and 2 were given.'],
    [[FIXED, FIRST, '--sides', '2'], '"2" is not two numbers of files'],
    [[FIXED, FIRST, '--map', 'a'], '"a" is not a pair of hosts'],
    [[`${FIXED}#2`, FIRST], 'there is no page 2; the capture has 1.'],
    [['/nowhere.har', FIRST], 'cannot be opened'],
  ])('refuses %j in one line', (args, sentence) => {
    const { status, stderr, stdout } = run('compare', ...args);
    expect({ status, stdout, lines: stderr.trim().split('\n').length }).toEqual({ status: 2, stdout: '', lines: 1 });
    expect(stderr).toContain(sentence);
  });
});

describe('trazado check against a baseline', () => {
  it('is passed by what became quicker, and says both numbers', () => {
    const { status, stdout } = run(
      'check',
      FIXED,
      '--baseline',
      FIRST,
      '--allow',
      'loaded=+10%',
      '--allow',
      'wire[kind=script]=+50kB',
    );
    expect(status).toBe(0);
    expect(stdout).toMatch(/^ok {4}loaded: 1\.03 s, at most 3\.12 s allowed: 2\.83 s in the baseline, \+10%\n/);
  });

  it('fails where it became slower by more than is allowed, with numbers as JSON and JUnit', () => {
    const args = ['check', FIRST, '--baseline', FIXED, '--allow', 'loaded=+10%', '--allow', 'failed=+0'];
    expect(run(...args).status).toBe(1);
    const { checked } = JSON.parse(run(...args, '--json').stdout) as { checked: Record<string, unknown>[] };
    expect(checked[0]).toMatchObject({ name: 'loaded', isOver: true, value: 2832, baseline: 1032, unit: 'ms' });
    expect(checked[1]).toMatchObject({ name: 'failed', isOver: false, value: 0, most: 0 });
    expect(run(...args, '--junit').stdout).toContain('<property name="baseline" value="1032"/>');
  });

  it.each([
    [['--baseline', FIXED], 'A baseline alone checks nothing'],
    [['--allow', 'loaded=+10%'], 'give --baseline OTHER'],
    [['--baseline', FIXED, '--allow', 'loaded=3s'], 'says no change'],
    [[], 'Nothing to check'],
  ])('refuses %j in one line', (args, sentence) => {
    const { status, stderr } = run('check', FIRST, ...args);
    expect(status).toBe(2);
    expect(stderr).toContain(sentence);
  });
});
