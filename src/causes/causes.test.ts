import { describe, expect, it } from 'vitest';
import { CACHING } from './caching';
import { ERRORS } from './errors';
import { FAILURES } from './failures';
import type { Cause, Told } from './made';
import { tell } from './made';
import { ODD } from './odd';
import { ROUTES } from './routes';
import { SLOW } from './slow';

// Small captures whose cause is known: what must be said of each, what must not, and never that something is broken that
// is not named.

const ALL: Readonly<Record<string, readonly Cause[]>> = {
  'what a load waited for': ROUTES,
  'what went wrong on the way': FAILURES,
  'what went wrong though it was answered': ERRORS,
  'what is slow': SLOW,
  'what is kept': CACHING,
  'what is odd': ODD,
};

describe.each(Object.entries(ALL))('%s', (_, causes) => {
  it.each(causes.map((cause) => [cause.name, cause] as const))('%s', (_name, cause) => {
    const told = tell(cause);
    expectRoute(cause, told);
    expectFindings(cause, told);
    for (const [url, source] of Object.entries(cause.must.sources ?? {})) {
      expect([url, told.rows.find((row) => row.url.endsWith(url))?.source]).toEqual([url, source]);
    }
    for (const [id, says] of cause.must.condition ?? []) {
      expect(told.condition.find((one) => one.id === id)?.sentence ?? `nothing of ${id}`).toMatch(says);
    }
    for (const id of cause.mustNot?.condition ?? []) expect(told.condition.map((one) => one.id)).not.toContain(id);
  });
});

it('has more than eighty causes, no two of one name', () => {
  const names = Object.values(ALL).flatMap((causes) => causes.map(({ name }) => name));
  expect(new Set(names).size).toBe(names.length);
  expect(names.length).toBeGreaterThanOrEqual(80);
});

function expectRoute({ must, mustNot }: Cause, { brief, sentence, urlOf }: Told): void {
  const legs = brief?.legs ?? [];
  const route = legs.flatMap((leg) => (leg.type === 'exchange' ? urlOf(leg.index) : []));
  if (must.last !== undefined) expect(route.at(-1)).toBe(must.last);
  if (must.route !== undefined) expect(route).toEqual(must.route);
  if (must.sentence !== undefined) expect(sentence).toMatch(must.sentence);
  if (mustNot?.say !== undefined) expect(sentence).not.toMatch(mustNot.say);
  if (brief === undefined) return;
  // Laws of every route: its legs tile the time without overlap or hole, and the ledger adds up to it.
  let at = brief.originMs;
  for (const leg of legs) {
    expect(leg.startMs).toBeCloseTo(at, 6);
    at = leg.endMs;
  }
  expect(at).toBeCloseTo(legs.length === 0 ? brief.originMs : brief.targetMs, 6);
  const { phases, gapMs, retryPauseMs, unknownMs } = brief.ledger;
  const sum = [...Object.values(phases), gapMs, retryPauseMs, unknownMs].reduce((total, ms) => total + ms, 0);
  expect(sum).toBeCloseTo(at - brief.originMs, 6);
}

function expectFindings({ must, mustNot }: Cause, { findings, brief, urlOf }: Told): void {
  const wholeMs = brief === undefined ? 0 : brief.targetMs - brief.originMs;
  const seen = findings.map((one) => `${one.rule}: ${one.claim}`);
  const listed = new Set<(typeof findings)[number]>();
  for (const { rule, about, claims, severity, confidence, costs } of must.finds ?? []) {
    const found = findings.find(
      (one) =>
        one.rule === rule &&
        !listed.has(one) &&
        about.every((url) => one.evidence.some((index) => urlOf(index) === url || urlOf(index).endsWith(url))),
    );
    expect([rule, found === undefined ? seen : 'is found']).toEqual([rule, 'is found']);
    if (found === undefined) continue;
    listed.add(found);
    expect(new Set(found.evidence.map(urlOf)).size).toBe(new Set(about).size);
    if (claims !== undefined) expect(found.claim).toMatch(claims);
    if (severity !== undefined) expect([rule, found.severity]).toEqual([rule, severity]);
    if (confidence !== undefined) expect([rule, found.confidence]).toEqual([rule, confidence]);
    if (costs !== undefined) {
      expect(found.cost.routeMs ?? 0).toBeGreaterThanOrEqual(costs[0]);
      expect(found.cost.routeMs ?? 0).toBeLessThanOrEqual(costs[1]);
    }
  }
  // Nothing is called broken that is not, and no remedy gains more than the load is long.
  expect(findings.filter((one) => one.severity === 'broken' && !listed.has(one)).map(({ claim }) => claim)).toEqual([]);
  for (const { cost } of findings) expect(cost.routeMs ?? 0).toBeLessThanOrEqual(wholeMs + 0.01);
  const rules: readonly string[] = findings.filter((one) => !listed.has(one)).map(({ rule }) => rule);
  for (const rule of mustNot?.find ?? []) expect([seen, rules.includes(rule)]).toEqual([seen, false]);
}
