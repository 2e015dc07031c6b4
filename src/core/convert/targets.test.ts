import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Draft, EMPTY_DRAFT } from './draft';
import { DEFAULT_OPTIONS, findTarget, TARGETS } from './index';
import { CASES } from './testing/cases';
import { type Echo, startEcho } from './testing/echo';
import { grammarOf, PARSED_TARGETS } from './testing/grammar';
import { differences, tryTarget } from './testing/harness';
import { LITERALS } from './testing/literals';
import { own } from './testing/odd-texts';
import { readPowerM, readVba } from './testing/office';
import { RUNNERS } from './testing/runners';
import { itNeeding } from './testing/tools';
import { fillIn } from './value';

// The two laws of conversion: what is emitted sends what the draft says, or a warning says what not and why; and
// nothing of what was captured ever runs. HARNESS=all runs every case also where that takes long.

const isThorough = process.env['HARNESS'] === 'all';
/** Of clients that give up after a few seconds by themselves: a busy machine takes longer. */
const LIMITS_S: Partial<Record<string, number>> = { 'python-httpx': 100 };
/** Clients that take half a second to start are given fewer cases. */
const EVERY: Partial<Record<string, number>> = isThorough ? {} : { c: 4, httpie: 4, 'python-httpx': 2 };
let echo: Echo;
beforeAll(async () => {
  echo = await startEcho();
});
afterAll(() => echo.close());

/** Sentences that say that something else arrives than the draft says. */
const ALARM =
  /In the URL .* goes out as "[^"]*": |The (?:header|method) .* is not possible here|A payload with|sends Content-Type|goes out once/;

const tally: string[] = [];
afterAll(() => {
  process.stdout.write(`\nWhat targets put on the wire, over ${CASES.length} requests:\n${tally.join('\n')}\n`);
});

describe('what is emitted, run by what really runs it', () => {
  for (const [id, runner] of Object.entries(RUNNERS)) {
    itNeeding(runner.needs, { concurrent: true })(
      `${id} sends what the draft says and nothing else, or warns (${runner.interpreter})`,
      async () => {
        const target = findTarget(id);
        if (target === undefined) throw new Error(`no target ${id}`);
        const timeLimitS = LIMITS_S[id];
        const cases = CASES.filter((_, at) => at % (EVERY[id] ?? 1) === 0).map((one) =>
          one.options.timeLimitS === undefined ? { ...one, options: { ...one.options, timeLimitS } } : one,
        );
        const { verdicts, strays, log } = await tryTarget(target, runner, cases, echo);
        const count = (type: string): number => verdicts.filter((verdict) => verdict.type === type).length;
        tally.push(
          `  ${id}: ${cases.length} cases, ${count('same')} the same, ${count('warned')} warned, ${count('wrong')} wrong`,
        );
        if (isThorough) {
          for (const verdict of verdicts) {
            if (verdict.type === 'warned')
              tally.push(`    ${verdict.name}: ${verdict.why.slice(0, 160)} | ${verdict.warnings}`);
            if (verdict.type === 'same' && verdict.warnings !== '')
              tally.push(`    the same all the same, ${verdict.name} | ${verdict.warnings}`);
            if (verdict.type === 'wrong') tally.push(`    WRONG ${verdict.name}: ${verdict.why.slice(0, 300)}`);
          }
        }
        const wrong = verdicts.flatMap((verdict) =>
          verdict.type === 'wrong' ? `${verdict.name}: ${verdict.why}` : [],
        );
        expect(wrong, log.slice(0, 2000)).toEqual([]);
        expect(strays, 'something else ran').toEqual([]);
        const alarms = verdicts.flatMap((verdict) =>
          verdict.type === 'same' && ALARM.test(verdict.warnings) ? `${verdict.name}: ${verdict.warnings}` : [],
        );
        expect(alarms, 'warned of what arrived as it should').toEqual([]);
        // A target that warns of nearly everything would keep the law and be of no use.
        expect(count('same') / verdicts.length).toBeGreaterThan(0.8);
      },
      600_000,
    );
  }
});

describe('what is emitted in the idioms of its client', () => {
  for (const id of ['python-requests', 'python-httpx', 'node-fetch', 'node-axios'] as const) {
    itNeeding(RUNNERS[id].needs, { concurrent: true })(
      `${id} sends what the draft says, or what means the same, which is said`,
      async () => {
        const target = findTarget(id);
        if (target === undefined) throw new Error(`no target ${id}`);
        const idiomatic = {
          ...target,
          render: (draft: Draft, options = DEFAULT_OPTIONS) => target.render(draft, { ...options, idioms: true }),
        };
        const cases = CASES.filter(({ name }) => /payload|form|target|query|type|JSON/i.test(name)).filter(
          (_, at) => at % (EVERY[id] ?? 1) === 0,
        );
        const { verdicts, log } = await tryTarget(idiomatic, RUNNERS[id], cases, echo);
        const wrong = verdicts.flatMap((one) => (one.type === 'wrong' ? `${one.name}: ${one.why}` : []));
        expect(wrong, log.slice(0, 2000)).toEqual([]);
      },
      600_000,
    );
  }

  it('reads as people write it', () => {
    const draft = (type: string, text: string): Draft => ({
      ...EMPTY_DRAFT,
      method: 'POST',
      url: 'https://a.example/huts?page=2&size=10',
      headers: [own('Content-Type', type), own('Accept', '*/*')],
      payload: { type: 'text', text },
    });
    const code = (id: string, one: Draft, idioms = true) =>
      findTarget(id)?.render(one, { ...DEFAULT_OPTIONS, idioms }) ?? { text: '', warnings: [] };
    const json = draft('application/json', '{"beds":3}');
    const form = draft('application/x-www-form-urlencoded', 'hut=Alba+Norte&beds=3');
    expect(code('python-requests', json).text).toContain(
      'response = requests.post(url, params=params, headers=headers, json=payload)',
    );
    expect(code('python-requests', json).text).not.toMatch(/Content-Type|import json/);
    expect(code('python-requests', json).warnings).toEqual([expect.stringContaining('means the same')]);
    expect(code('python-requests', form).text).toContain("    'hut': 'Alba Norte',");
    expect(code('python-requests', form).warnings).toEqual([]);
    expect(code('node-fetch', form).text).toContain('body: new URLSearchParams({');
    // Byte for byte where nobody asked for idioms, and where the client's own would not come to it.
    expect(code('python-requests', json, false).text).toContain('json.dumps(payload');
    const odd = { ...form, url: 'https://a.example/?a=%2f', payload: { type: 'text', text: 'a=%2f&b' } } as const;
    expect(code('python-requests', odd).text).not.toMatch(/params=|data=payload/);
    expect(code('node-fetch', odd).text).not.toContain('URLSearchParams');
  });
});

describe('what cannot run here', () => {
  it.each(PARSED_TARGETS)(
    '%s is what its grammar allows, whatever the request',
    async (id) => {
      const isAllowed = await grammarOf(id);
      const broken = CASES.flatMap(({ name, draft, options }) =>
        isAllowed(findTarget(id)?.render(draft('http://127.0.0.1:8080'), options).text ?? '(') ? [] : [name],
      );
      expect(broken).toEqual([]);
    },
    60_000,
  );

  it.each([
    ['vba', readVba],
    ['power-m', readPowerM],
  ] as const)("%s says what the draft says, read by its language's rules, or warns", (id, read) => {
    const wrong = CASES.flatMap(({ name, draft, options, arrives }) => {
      const wanted = draft('http://127.0.0.1:8080');
      const { text, warnings } = findTarget(id)?.render(wanted, options) ?? { text: '', warnings: [] };
      const filled = fillIn(wanted);
      const arrived = read(text, { REQ_TOKEN: 's3cret' });
      return differences(arrives?.(filled) ?? filled, [arrived], { adds: [] }, { port: 8080 }).flatMap(
        ({ what, covers }) => (covers.test(warnings.join('\n')) ? [] : [`${name}: ${what}`]),
      );
    });
    expect(wrong).toEqual([]);
  });

  it.each(Object.entries(LITERALS))(
    'a string of %s reads back as the very text, and ends where it ends',
    (_, { quote, read }) => {
      const text = fc.string({
        unit: fc.oneof(
          fc.constantFrom(...'\'"`$\\{}()#@%!?<>;\n\r\t\u2028‘’ü😀 a'),
          fc.string({ unit: 'binary', minLength: 1, maxLength: 1 }),
        ),
      });
      fc.assert(
        fc.property(text, (one) => {
          const wanted = one.toWellFormed().replaceAll('\0', '');
          expect(read(`${quote(wanted)} tail`)).toEqual({ text: wanted, rest: ' tail' });
        }),
        { numRuns: 500 },
      );
    },
  );
});

describe('every target', () => {
  it('reads as it should for one plain request', () => {
    const draft = CASES.find(({ name }) => name.startsWith('option: as a function'))?.draft(
      'https://api.cumbrera.example',
    );
    if (draft === undefined) throw new Error('no such case');
    for (const { id, render } of TARGETS) {
      const { text, warnings } = render(draft, DEFAULT_OPTIONS);
      expect(text, id).toContain('api.cumbrera.example');
      expect(text, id).toContain('s3cret');
      expect(text.endsWith('\n') || id === 'http', id).toBe(true);
      expect(
        warnings.every((warning) => warning.endsWith('.')),
        `${id}: ${warnings.join(' | ')}`,
      ).toBe(true);
      const secret = render(draft, { ...DEFAULT_OPTIONS, secretsFromEnv: true }).text;
      if (id !== 'http' && id !== 'curl-config') expect(secret, id).not.toContain('s3cret');
    }
  });

  it('names what it cannot do of the options', () => {
    const draft = CASES[0]?.draft('https://a.example');
    if (draft === undefined) throw new Error('no case');
    const options = { ...DEFAULT_OPTIONS, proxy: 'http://proxy.example:8080', ignoresCertificate: true };
    for (const { id, render } of TARGETS.filter((target) => target.id !== 'http')) {
      const { text, warnings } = render(draft, options);
      const isDone = text.includes('proxy.example') || warnings.some((warning) => /proxy/i.test(warning));
      expect(isDone, id).toBe(true);
    }
  });
});
