import { addTo } from '../collections';
import type { Finding } from '../diagnose';
import type { ExchangeIndex } from '../model';

/** A finding of either load, or of both. */
export interface FindingOfBoth {
  readonly change: 'gone' | 'new' | 'changed' | 'same';
  readonly a: Finding | undefined;
  readonly b: Finding | undefined;
}

/** Costs that differ by less are about the same. */
const FELT_COST_MS = 10;
const FELT_COST_SHARE = 0.1;

/**
 * Findings matched: of one rule, about the same exchanges, the most shared first; else, where a rule found but one thing in
 * each, that. Changed is one that costs another amount or is about other exchanges.
 */
export function compareFindings(
  a: readonly Finding[],
  b: readonly Finding[],
  pairs: readonly { readonly a: ExchangeIndex | undefined; readonly b: ExchangeIndex | undefined }[],
): FindingOfBoth[] {
  const toB = new Map(pairs.flatMap((pair) => (pair.a === undefined ? [] : [[pair.a, pair.b] as const])));
  const aboutB = findingsByRuleAndExchange(b);
  const shared = a.flatMap((own, atA) => {
    const counts = new Map<number, number>();
    for (const index of own.evidence)
      for (const atB of aboutB.get(own.rule)?.get(toB.get(index)) ?? []) counts.set(atB, (counts.get(atB) ?? 0) + 1);
    return [...counts].map(([atB, count]) => ({ atA, atB, count }));
  });
  const [takenA, takenB] = [new Map<number, number>(), new Set<number>()];
  const take = (atA: number, atB: number): void => {
    if (takenA.has(atA) || takenB.has(atB)) return;
    takenA.set(atA, atB);
    takenB.add(atB);
  };
  for (const { atA, atB } of shared.sort((one, two) => two.count - one.count || one.atA - two.atA || one.atB - two.atB))
    take(atA, atB);
  const onlyOf = (list: readonly Finding[], rule: string): number | undefined =>
    list.filter((one) => one.rule === rule).length === 1 ? list.findIndex((one) => one.rule === rule) : undefined;
  for (const rule of new Set(a.map((one) => one.rule))) {
    const [atA, atB] = [onlyOf(a, rule), onlyOf(b, rule)];
    if (atA !== undefined && atB !== undefined) take(atA, atB);
  }
  return [
    ...a.map((own, at): FindingOfBoth => {
      const atB = takenA.get(at);
      const other = atB === undefined ? undefined : b[atB];
      if (other === undefined) return { change: 'gone', a: own, b: undefined };
      return { change: isSame(own, other, toB) ? 'same' : 'changed', a: own, b: other };
    }),
    ...b.flatMap((other, at): FindingOfBoth[] => (takenB.has(at) ? [] : [{ change: 'new', a: undefined, b: other }])),
  ];
}

/** The places of the findings of a rule that rest on an exchange. */
function findingsByRuleAndExchange(
  findings: readonly Finding[],
): ReadonlyMap<string, ReadonlyMap<ExchangeIndex | undefined, readonly number[]>> {
  const found = new Map<string, Map<ExchangeIndex | undefined, number[]>>();
  for (const [at, { rule, evidence }] of findings.entries()) {
    const own = found.get(rule) ?? new Map<ExchangeIndex | undefined, number[]>();
    found.set(rule, own);
    for (const index of new Set(evidence)) addTo(own, index, at);
  }
  return found;
}

function isSame(a: Finding, b: Finding, toB: ReadonlyMap<ExchangeIndex, ExchangeIndex | undefined>): boolean {
  const [own, other] = [a.cost.routeMs ?? 0, b.cost.routeMs ?? 0];
  if (Math.abs(own - other) >= Math.max(FELT_COST_MS, FELT_COST_SHARE * Math.max(own, other))) return false;
  const theirs = new Set<ExchangeIndex | undefined>(b.evidence);
  return a.evidence.length === b.evidence.length && a.evidence.every((index) => theirs.has(toB.get(index)));
}
