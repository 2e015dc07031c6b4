import { type ExchangeRow, nameExchange } from '../analysis';
import type { ExchangeIndex } from '../model';
import { formatBytes, formatCount, formatMs, PHASE_NAME, signedMs } from '../wording';
import type { SpentOn } from './difference';
import type { GroupComparison } from './group';
import type { ComparedLoad } from './load';
import type { LoadComparison } from './loads';
import { DELTAS, deltaOf, type Pair } from './pair';
import type { SidesComparison } from './sides';
import type { SumOfBoth } from './sums';
import { noiseOf, remarksOn, tellComparison } from './tell';
import { nameShared, tellGroup } from './tell-group';
import { MATCHED_WORDS, nameBoth, nameCause, nameCauses, tellCause, tellFacts, tellTimes } from './tell-pair';
import { tellConnections, tellVisits } from './tell-visits';

/** The loads of a comparison with what came of it: what is printed is told of both. */
export interface PrintedComparison {
  readonly a: readonly ComparedLoad[];
  readonly b: readonly ComparedLoad[];
  readonly compared: SidesComparison;
  /** Both sides are one and the same load. */
  readonly isSame: boolean;
}

export const SPENT_NAME: Record<SpentOn, string> = { ...PHASE_NAME, gap: 'gaps', pause: 'pauses', unknown: 'unknown' };

type RowOf = (index: number | undefined) => ExchangeRow | undefined;

const rowsBy = (load: ComparedLoad | undefined): RowOf => {
  const rows = new Map<number, ExchangeRow>((load?.rows ?? []).map((row) => [row.index, row]));
  return (index) => (index === undefined ? undefined : rows.get(index));
};

/**
 * The comparison as the command line gives it. Times in ms, B's less A's where it says difference. Long because it is the
 * list of all members.
 */
export function comparisonJson({ a, b, compared, isSame }: PrintedComparison) {
  const { drawn } = compared;
  const [drawnA, drawnB] = [a[compared.a.drawn], b[compared.b.drawn]];
  const [rowOfA, rowOfB] = [rowsBy(drawnA), rowsBy(drawnB)];
  const sideJson = (loads: readonly ComparedLoad[], side: SidesComparison['a']) => ({
    medianMs: side.medianMs,
    drawn: side.drawn,
    loads: loads.map(({ name, page, rows }, at) => ({
      name,
      page: page?.id,
      exchanges: rows.length,
      ms: side.loadsMs[at],
    })),
  });
  const { ledger, causes } = drawn;
  return {
    goal: drawn.goal,
    sentence: tellComparison(compared).join(' '),
    remarks: drawnA === undefined || drawnB === undefined ? [] : remarksOn(drawnA, drawnB, drawn, isSame),
    a: sideJson(a, compared.a),
    b: sideJson(b, compared.b),
    differenceMs: compared.differenceMs,
    interval: compared.interval,
    ledger:
      ledger === undefined
        ? undefined
        : {
            aMs: ledger.aMs,
            bMs: ledger.bMs,
            byPhase: ledger.byPhase.map(({ of, ...both }) => ({ of: SPENT_NAME[of], ...both })),
            byHost: ledger.byHost.map(({ of, ...both }) => ({ of: of ?? 'none', ...both })),
            byParty: ledger.byParty.map(({ of, ...both }) => ({ of: of ?? 'none', ...both })),
          },
    causes:
      causes === undefined
        ? undefined
        : {
            totalMs: causes.totalMs,
            causes: causes.causes.map((cause) => ({
              ms: cause.ms,
              name: nameCause(cause, rowOfA, rowOfB),
              why: tellCause(cause, rowOfA, rowOfB),
              endpoint: cause.endpoint,
              exchanges: cause.played.map(({ a: own, b: other }) => ({ a: own, b: other })),
            })),
            othersMs: causes.others.ms,
            notExplainedMs: causes.notExplainedMs,
          },
    counts: drawn.counts,
    sums: drawn.sums,
    groups: drawn.groups,
    findings: drawn.findings?.map(({ change, a: own, b: other }) => ({
      change,
      rule: (own ?? other)?.rule,
      a: own?.claim,
      b: other?.claim,
    })),
    visits: drawn.visits,
    connections: drawn.connections,
    pairs: drawn.pairs.map((pair) => pairJson(pair, rowOfA, rowOfB)),
  };
}

function pairJson(pair: Pair, rowOfA: RowOf, rowOfB: RowOf) {
  const [a, b] = [rowOfA(pair.a), rowOfB(pair.b)];
  return {
    a: pair.a,
    b: pair.b,
    by: pair.by,
    changes: pair.changes,
    name: nameBoth(a, b),
    host: (a ?? b)?.host,
    kind: (a ?? b)?.kind,
    endpoint: pair.endpoint,
    differences: Object.fromEntries(DELTAS.map((name) => [name, deltaOf(name, a, b)])),
    facts: pair.facts,
    didMs: pair.didMs,
  };
}

/** The comparison as text. */
export function comparisonLines({ a, b, compared, isSame }: PrintedComparison): string[] {
  const { drawn } = compared;
  const [drawnA, drawnB] = [a[compared.a.drawn], b[compared.b.drawn]];
  if (drawnA === undefined || drawnB === undefined) return [];
  const noise = noiseOf(compared);
  const [rowOfA, rowOfB] = [rowsBy(drawnA), rowsBy(drawnB)];
  return [
    ...tellComparison(compared),
    ...remarksOn(drawnA, drawnB, drawn, isSame),
    ...(noise === '' || isSame ? [] : [`${noise}.`]),
    ...ledgerLines(drawn),
    ...causeLines(drawn, rowOfA, rowOfB),
    ...tellConnections(drawn),
    ...(drawn.visits === undefined ? [] : tellVisits(drawn.visits)),
    ...findingLines(drawn),
    '',
    'Sums',
    ...[...drawn.sums.whole, ...drawn.sums.byKind].map(sumLine),
    '',
    'Exchanges',
    ...drawn.pairs.filter(({ changes }) => !changes.includes('same')).map((pair) => pairLine(pair, rowOfA, rowOfB)),
  ];
}

function ledgerLines({ ledger }: LoadComparison): string[] {
  if (ledger === undefined) return [];
  const line = (name: string, aMs: number, bMs: number): string =>
    `  ${name.padEnd(10)}${formatMs(aMs).padStart(9)}${formatMs(bMs).padStart(9)}${signedMs(bMs - aMs).padStart(10)}`;
  return [
    '',
    'Where the time went',
    // What came to less than a tenth of a ms in both reads as nothing.
    ...ledger.byPhase
      .filter(({ aMs, bMs }) => Math.max(aMs, bMs) >= SHOWN_MS)
      .map(({ of, aMs, bMs }) => line(SPENT_NAME[of], aMs, bMs)),
    line('all', ledger.aMs, ledger.bMs),
  ];
}

const SHOWN_MS = 0.05;

function causeLines({ causes }: LoadComparison, rowOfA: RowOf, rowOfB: RowOf): string[] {
  if (causes === undefined) return [];
  const { causes: list, others, notExplainedMs } = causes;
  const nameOf = nameCauses(causes, rowOfA, rowOfB);
  return [
    '',
    'What made the difference',
    ...list.map(
      (cause) => `  ${signedMs(cause.ms).padStart(9)}  ${nameOf(cause)}: ${tellCause(cause, rowOfA, rowOfB)}`,
    ),
    ...(Math.abs(others.ms) < 0.05
      ? []
      : [`  ${signedMs(others.ms).padStart(9)}  ${formatCount(others.exchanges)} others together`]),
    `  ${signedMs(notExplainedMs).padStart(9)}  not explained: gaps in which the load waited for no exchange`,
  ];
}

function findingLines({ findings }: LoadComparison): string[] {
  const changed = (findings ?? []).filter(({ change }) => change !== 'same');
  if (changed.length === 0) return [];
  return ['', 'Findings', ...changed.map(({ change, a, b }) => `  ${change.padEnd(8)}${(b ?? a)?.claim ?? ''}`)];
}

const sumLine = ({ of, unit, a, b }: SumOfBoth): string => {
  const write = (value: number | undefined): string =>
    value === undefined ? 'unknown' : unit === 'bytes' ? formatBytes(value) : formatCount(value);
  return `  ${of.padEnd(20)}${write(a).padStart(9)}${write(b).padStart(9)}`;
};

function pairLine(pair: Pair, rowOfA: RowOf, rowOfB: RowOf): string {
  const [a, b] = [rowOfA(pair.a), rowOfB(pair.b)];
  const number = (index: ExchangeIndex | undefined): string => (index === undefined ? '' : `#${index}`);
  const words = [tellTimes(a, b), tellFacts(pair, a, b)].filter((text) => text !== '').join('; ');
  const by = pair.by === undefined || pair.by === 'request' ? '' : ` (${MATCHED_WORDS[pair.by]})`;
  const name = a !== undefined && b !== undefined ? nameBoth(a, b) : nameExchange((a ?? b) as ExchangeRow);
  return `  ${number(pair.a).padStart(6)}${number(pair.b).padStart(6)}  ${pair.changes.join(', ').padEnd(15)}${name}${by}${words === '' ? '' : `: ${words}`}`;
}

/** What the slow loads of a group share, as the command line gives it. */
export function groupJson(loads: readonly ComparedLoad[], group: GroupComparison) {
  const slow = new Set(group.slow);
  return {
    goal: group.goal,
    sentence: tellGroup(group).join(' '),
    differenceMs: group.differenceMs,
    isApart: group.isApart,
    loads: loads.map(({ name, page }, at) => ({
      name,
      page: page?.id,
      ms: group.summary.loadsMs[at],
      isSlow: slow.has(at),
    })),
    shared: group.shared,
  };
}

export function groupLines(loads: readonly ComparedLoad[], group: GroupComparison): string[] {
  const slow = new Set(group.slow);
  const inOrder = group.summary.loadsMs
    .map((ms, at) => ({ ms, at }))
    .sort((one, other) => (other.ms ?? Number.NEGATIVE_INFINITY) - (one.ms ?? Number.NEGATIVE_INFINITY));
  return [
    ...tellGroup(group),
    '',
    'What explains most',
    ...group.shared.map((one) => `  ${signedMs(one.ms).padStart(9)}  ${nameShared(one)}`),
    '',
    'Loads',
    ...inOrder.map(
      ({ ms, at }) => `  ${formatMs(ms).padStart(9)}  ${slow.has(at) ? 'slow ' : '     '}${loads[at]?.name ?? ''}`,
    ),
  ];
}
