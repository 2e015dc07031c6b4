import { type ExchangeRow, requestKey } from '../../analysis';
import { groupBy } from '../../collections';
import { isRedirectStatus } from '../../http';
import { CLOCK_RESOLUTION_MS, countUpTo } from '../../timing';
import { formatMs, formatPlural } from '../../wording';
import type { Matter, Rule, Subject } from '../finding';
import { called, countLike, indexes, most, sum, those } from '../say';
import { usesAnswer } from '../values';

/** Two calls, one after the other, happen by chance; three are a habit. */
const LEAST_CALLS = 3;
/** A call that starts so soon after the one before ended has waited for it. */
const SOON_MS = 60;
const NAMED = 4;

const endMs = ({ startMs = 0, timeMs = 0 }: ExchangeRow): number => startMs + timeMs;

/** Calls that each began when the one before had ended, though nothing of its answer stands in the next request. */
export const inARow: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    const calls = rows.filter(
      ({ kind, startMs, status, parentEvidence, fetchedFor }) =>
        fetchedFor === undefined &&
        // The hops of a redirect cannot be made at once.
        kind === 'data' &&
        startMs !== undefined &&
        !isRedirectStatus(status) &&
        parentEvidence !== 'redirect',
    );
    // The same request again and again is asked twice, or a poll.
    const runs = runsOf(subject, calls).filter((run) => run.some((call) => !isSameRequest(call, run[0])));
    for (const [, own] of groupBy(runs, (run) => matterOf(run))) yield tell(subject, own);
  }
};

const isSameRequest = (call: ExchangeRow, other: ExchangeRow): boolean => requestKey(call) === requestKey(other);

/** Runs of one endpoint are one matter, however many there are. */
const matterOf = ([first, ...more]: Run): string =>
  more.every(({ endpoint }) => endpoint === first.endpoint) ? first.endpoint : `#${first.index}`;

/** Tells of a matter by the longest of its runs. */
function tell(subject: Subject, runs: readonly [Run, ...Run[]]): Matter {
  const lengthOf = (run: Run): number => sum(run, ({ timeMs }) => timeMs);
  const run = runs.reduce((longest, one) => (lengthOf(one) > lengthOf(longest) ? one : longest));
  const [first] = run;
  const longest = most(run, ({ timeMs }) => timeMs);
  const areAlike = run.every(({ endpoint }) => endpoint === first.endpoint);
  const isKnown = runs.every((one) =>
    one.slice(0, -1).every(({ index }) => subject.evidenceOf(index)?.given !== undefined),
  );
  const others = runs.length === 1 ? '' : ` ${formatPlural(runs.length - 1, 'more sequence')} of such calls.`;
  return {
    severity: 'costly',
    claim: areAlike
      ? `${countLike(run, first)} were made one after the other`
      : `${formatPlural(run.length, 'call')} were made one after the other: ${run.slice(0, NAMED).map(called).join(', ')}${run.length > NAMED ? ' …' : ''}`,
    detail: `One after the other ${formatMs(lengthOf(run))}; in parallel about ${formatMs(longest)}. ${isKnown ? 'No value of one response was found in the next request, so they may be independent.' : 'Not every response was recorded: a request may use a value from the previous one.'}${others}`,
    evidence: runs.flatMap((one) => indexes(one)),
    changes: runs.map((one) => ({ type: 'start-at', indexes: those(one), startMs: one[0].startMs ?? 0 })),
    remedy: 'Send them in parallel or combine them into one request, unless each depends on the previous.',
    confidence: isKnown ? 'strong' : 'weak',
  };
}

/** Calls that follow one another, at least three. */
type Run = readonly [ExchangeRow, ...ExchangeRow[]];

/** Runs of calls that each waited for the one before: those of one endpoint first, then any among the others. */
function runsOf(subject: Subject, calls: readonly ExchangeRow[]): Run[] {
  const byEnd = inOrderOfEnds(calls);
  const alike = [...groupBy(calls, ({ endpoint }) => endpoint).values()].flatMap((group) =>
    chainsOf(subject, group, byEnd),
  );
  const told = new Set(alike.flat());
  const others = calls.filter((call) => !told.has(call));
  return [...alike, ...chainsOf(subject, others, byEnd)];
}

/**
 * Runs of calls that only read, each of which waited for no other call than the one before.
 * @param calls those that may belong to a run, in order of their starts
 * @param allByEnd those that may have been waited for, in order of their ends
 */
function chainsOf(subject: Subject, calls: readonly ExchangeRow[], allByEnd: readonly ExchangeRow[]): Run[] {
  const runs: OpenRun[] = [];
  const open = new Map<ExchangeRow['index'], OpenRun>();
  const byEnd = inOrderOfEnds(calls);
  for (const call of calls) {
    if (!onlyReads(call)) continue;
    const before = lastEndedBefore(byEnd, call);
    const follows = before === undefined || hasBetween(allByEnd, before, call) ? undefined : open.get(before.index);
    const run =
      before !== undefined && follows !== undefined && isIndependent(subject, call, before, follows)
        ? follows
        : { calls: [], asked: new Set<number>() };
    if (before !== undefined && run === follows) open.delete(before.index);
    else runs.push(run);
    run.calls.push(call);
    for (const value of subject.evidenceOf(call.index)?.asked ?? []) run.asked.add(value);
    open.set(call.index, run);
  }
  return runs.flatMap(({ calls: [first, ...more] }) =>
    first === undefined || more.length + 1 < LEAST_CALLS ? [] : [[first, ...more] as const],
  );
}

/** Calls that follow one another, and the values that they had in their requests. */
interface OpenRun {
  readonly calls: ExchangeRow[];
  readonly asked: Set<number>;
}

const onlyReads = ({ method, failure }: ExchangeRow): boolean => method === 'GET' && failure === undefined;

/** The call that ended last before another began, where that is so short before that it was waited for. */
function lastEndedBefore(byEnd: readonly ExchangeRow[], call: ExchangeRow): ExchangeRow | undefined {
  const startMs = call.startMs ?? 0;
  for (let at = countEndedBy(byEnd, startMs) - 1; at >= 0; at--) {
    const other = byEnd[at];
    if (other === undefined || startMs - endMs(other) > SOON_MS) return undefined;
    // A call that took no time may end when it starts itself.
    if (other.index !== call.index && (other.startMs ?? 0) < startMs) return other;
  }
  return undefined;
}

/** True where another call was made between two: the later one may have waited for that. */
function hasBetween(byEnd: readonly ExchangeRow[], before: ExchangeRow, call: ExchangeRow): boolean {
  for (let at = countEndedBy(byEnd, call.startMs ?? 0) - 1; at >= 0; at--) {
    const other = byEnd[at];
    if (other === undefined || endMs(other) <= endMs(before)) return false;
    if (other.index !== call.index && (other.startMs ?? 0) >= endMs(before) - CLOCK_RESOLUTION_MS) return true;
  }
  return false;
}

const inOrderOfEnds = (calls: readonly ExchangeRow[]): ExchangeRow[] => [...calls].sort((a, b) => endMs(a) - endMs(b));

/** How many of the calls, in order of their ends, had ended by a moment. */
const countEndedBy = (byEnd: readonly ExchangeRow[], ms: number): number =>
  countUpTo(byEnd, endMs, ms + CLOCK_RESOLUTION_MS);

function isIndependent(subject: Subject, call: ExchangeRow, before: ExchangeRow, run: OpenRun): boolean {
  const asked = subject.evidenceOf(call.index)?.asked;
  const given = subject.evidenceOf(before.index)?.given;
  return asked === undefined || given === undefined || !usesAnswer(asked, given, run.asked);
}
