import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';

const BOOKING = 'demo/captures/booking-gone-wrong.har';
const FIRST = 'demo/captures/alba-norte-first-visit.har';
const FIXED = 'demo/captures/alba-norte-fixed-release.har';
const folder = mkdtempSync(join(tmpdir(), 'trazado-report-'));
const run = (...args: string[]) => {
  const { status, stdout, stderr } = runCli(['report', ...args]);
  return { status, stdout: stdout.toString(), stderr: stderr.toString() };
};
const explained = (file: string) =>
  JSON.parse(runCli(['explain', file, '--json']).stdout.toString()) as {
    sentence: string;
    findings: { claim: string }[];
    legs: unknown[];
  };
const unescaped = (html: string): string =>
  html.replace(
    /&(lt|gt|quot|#39|amp);/g,
    (_, name: string) => ({ lt: '<', gt: '>', quot: '"', '#39': "'" })[name] ?? '&',
  );

/** A capture of one page whose address holds a token. */
function withToken(name: string, token: string): string {
  const path = join(folder, `${name}.har`);
  const url = `https://www.cumbrera.example/huts?access_token=${token}`;
  const entry = (index: number) => ({
    pageref: 'p',
    startedDateTime: `2026-10-03T09:00:0${index}Z`,
    time: 900,
    request: { method: 'GET', url, headers: [] },
    response: { status: index === 0 ? 200 : 500, headers: [], content: { size: 0, mimeType: 'text/html' } },
    timings: { send: 0, wait: 890, receive: 10 },
  });
  const pages = [{ id: 'p', startedDateTime: '2026-10-03T09:00:00Z', title: url, pageTimings: { onLoad: 2000 } }];
  writeFileSync(path, JSON.stringify({ log: { version: '1.2', pages, entries: [entry(0), entry(1)] } }));
  return path;
}

/** A load in which each of many exchanges waited for the one before; every fourth took longest. */
function withLongRoute(count: number): string {
  const path = join(folder, 'long-route.har');
  const startedAt = Date.parse('2026-10-03T09:00:00Z');
  let at = 0;
  const entries = Array.from({ length: count }, (_, index) => {
    const time = index % 4 === 0 ? 40 : 10;
    const startedDateTime = new Date(startedAt + at).toISOString();
    at += time;
    return {
      pageref: 'p',
      startedDateTime,
      time,
      request: { method: 'GET', url: `https://www.cumbrera.example/step-${index}`, headers: [] },
      response: { status: 200, headers: [], content: { size: 0, mimeType: index === 0 ? 'text/html' : 'text/css' } },
      timings: { send: 0, wait: time, receive: 0 },
    };
  });
  const pages = [{ id: 'p', startedDateTime: '2026-10-03T09:00:00Z', title: 'p', pageTimings: { onLoad: at } }];
  writeFileSync(path, JSON.stringify({ log: { version: '1.2', pages, entries } }));
  return path;
}

describe('trazado report', () => {
  it('draws and lists the longest legs of a long route, and says how many there are', () => {
    const file = withLongRoute(240);
    const { length } = explained(file).legs;
    expect(length).toBeGreaterThan(200);
    const out = join(folder, 'long-route.md');
    expect(run(file, '--out', out)).toMatchObject({ status: 0 });
    const [, after = ''] = readFileSync(out, 'utf8').replaceAll('\\', '').split('## What the load waited for\n');
    const [route = ''] = after.split('\n## ');
    expect(route).toContain(`Its 60 longest legs of ${length}: 2.40 s of 4.20 s.`);
    const rows = route.match(/^\|.*step-\d+/gm) ?? [];
    expect(rows.map((row) => /step-\d+/.exec(row)?.[0])).toEqual(
      Array.from({ length: 60 }, (_, at) => `step-${at * 4}`),
    );
    expect(route).toContain(`The route's 60 longest legs of ${length} in the order of time`);
  });

  it('says what explain says, in HTML and in Markdown, with the proof beside it', () => {
    const { sentence, findings, legs } = explained(FIRST);
    for (const format of ['html', 'md']) {
      const out = join(folder, `first.${format}`);
      expect(run(FIRST, '--out', out, '--note', 'Why was it <slow>?')).toEqual({
        status: 0,
        stdout: '',
        stderr: `Report written to ${out}.\n`,
      });
      const text = readFileSync(out, 'utf8');
      const shown = format === 'html' ? unescaped(text) : text.replaceAll('\\', '');
      expect(shown).toContain('Why was it <slow>?');
      for (const words of [sentence, ...findings.map(({ claim }) => claim)]) expect(shown).toContain(words);
      expect(shown).toContain(`${legs.length} legs`);
      expect(readFileSync(`${out}.proof.txt`, 'utf8')).toMatch(
        /^ok {4}none of \d+ values is in the report, in any encoding\nok {4}times, sizes, sources, routes and findings are as they were recorded\n$/,
      );
    }
  });

  it('takes secrets out of addresses, titles, notes and names of files, unless they are asked for', () => {
    const token = 'q7Zt0Lm4Xw9Rb2Vd';
    const file = withToken(`of-${token}`, token);
    for (const format of ['html', 'md']) {
      const out = join(folder, `tokens.${format}`);
      const args = [file, '--out', out, '--compare', file, '--note', `It fails with ${token}.`];
      expect(run(...args).status).toBe(0);
      expect(readFileSync(out, 'utf8')).not.toContain(token);
      expect(readFileSync(out, 'utf8')).toContain('status 500');
      expect(run(...args, '--secrets').stderr).toBe(`Report written to ${out}, secrets left in it.\n`);
      expect(readFileSync(out, 'utf8')).toContain(token);
    }
  });

  it('takes out what only the title of the page holds', () => {
    const token = 'h3Kq8Wz1Np5Yt7Gc';
    const har = JSON.parse(readFileSync(withToken('for-title', 'q7Zt0Lm4Xw9Rb2Vd'), 'utf8')) as {
      log: { pages: { title: string }[] };
    };
    for (const page of har.log.pages) page.title = `https://www.cumbrera.example/huts?session=${token}`;
    const file = join(folder, 'title.har');
    writeFileSync(file, JSON.stringify(har));
    const out = join(folder, 'title.html');
    expect(run(file, '--out', out).status).toBe(0);
    expect(readFileSync(out, 'utf8')).not.toContain(token);
    expect(readFileSync(out, 'utf8')).toContain('<h1>https://www.cumbrera.example/huts?session=');
  });

  it('has the comparison with another capture, as compare says it', () => {
    const out = join(folder, 'compared.html');
    expect(run(FIRST, '--compare', FIXED, '--parts', 'comparison', '--out', out).status).toBe(0);
    const text = unescaped(readFileSync(out, 'utf8'));
    const [said = ''] = runCli(['compare', FIRST, FIXED]).stdout.toString().split('\n');
    expect(said).not.toBe('');
    expect(text).toContain(said);
    expect(text).toContain('A is alba-norte-first-visit.har, B is alba-norte-fixed-release.har');
    expect(text).not.toContain('<h2>Findings');
  });

  it.each([
    ['a name that says no format', [BOOKING, '--out', join(folder, 'x.pdf')], /it ends in \.html or \.md\.$/m],
    [
      'a part that is none',
      [BOOKING, '--out', join(folder, 'x.md'), '--parts', 'route,all'],
      /"all" is no part of a report/,
    ],
    ['a preset that is none', [BOOKING, '--out', join(folder, 'x.md'), '--preset', 'mule'], /"mule" is not a preset/],
    ['a page that is none', [`${BOOKING}#9`, '--out', join(folder, 'x.md')], /there is no page 9/],
    ['a file that is none', ['no-such.har', '--out', join(folder, 'x.md')], /no-such\.har cannot be opened/],
  ])('refuses %s in one line, and writes nothing', (_, args, message) => {
    const { status, stderr } = run(...args);
    expect([status, stderr]).toEqual([2, expect.stringMatching(message)]);
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect(existsSync(join(folder, 'x.md'))).toBe(false);
  });
});
