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
  const shared = a.flatMap((own, atA) =>
    b.flatMap((other, atB) => {
      if (own.rule !== other.rule) return [];
      const theirs = new Set(other.evidence);
      const count = own.evidence.filter((index) => {
        const to = toB.get(index);
        return to !== undefined && theirs.has(to);
      }).length;
      return count === 0 ? [] : [{ atA, atB, count }];
    }),
  );
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

function isSame(a: Finding, b: Finding, toB: ReadonlyMap<ExchangeIndex, ExchangeIndex | undefined>): boolean {
  const [own, other] = [a.cost.routeMs ?? 0, b.cost.routeMs ?? 0];
  if (Math.abs(own - other) >= Math.max(FELT_COST_MS, FELT_COST_SHARE * Math.max(own, other))) return false;
  const theirs = new Set<ExchangeIndex | undefined>(b.evidence);
  return a.evidence.length === b.evidence.length && a.evidence.every((index) => theirs.has(toB.get(index)));
}
