import { type ExchangeRow, requestKey } from '../../analysis';
import { groupBy } from '../../collections';
import { isRedirectStatus } from '../../http';
import { CLOCK_RESOLUTION_MS, countUpTo } from '../../timing';
import { formatMs, formatPlural } from '../../wording';
import type { Rule, Subject } from '../finding';
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
    for (const run of runsOf(subject, calls)) {
      const [first] = run;
      // The same request again and again is asked twice, or a poll.
      if (first === undefined || run.every((call) => requestKey(call) === requestKey(first))) continue;
      const longest = most(run, ({ timeMs }) => timeMs);
      const whole = sum(run, ({ timeMs }) => timeMs);
      const areAlike = run.every(({ endpoint }) => endpoint === first.endpoint);
      const isKnown = run.slice(0, -1).every(({ index }) => subject.evidenceOf(index)?.given !== undefined);
      yield {
        severity: 'costly',
        claim: areAlike
          ? `${countLike(run, first)} were made one after the other`
          : `${formatPlural(run.length, 'call')} were made one after the other: ${run.slice(0, NAMED).map(called).join(', ')}${run.length > NAMED ? ' …' : ''}`,
        detail: `Together they took ${formatMs(whole)}; at once they would take as long as the longest, ${formatMs(longest)}. ${isKnown ? 'Nothing that an answer gave stands in the request after it.' : 'Not every answer was recorded: a request may use what the one before gave.'}`,
        evidence: indexes(run),
        changes: [{ type: 'start-at', indexes: those(run), startMs: first.startMs ?? 0 }],
        remedy: 'Make them at once, or ask for all in one call, unless each has to wait for the one before.',
        confidence: isKnown ? 'strong' : 'weak',
      };
    }
  }
};

/** Runs of calls that each waited for the one before: those of one endpoint first, then any among the others. */
function runsOf(subject: Subject, calls: readonly ExchangeRow[]): ExchangeRow[][] {
  const alike = [...groupBy(calls, ({ endpoint }) => endpoint).values()].flatMap((group) =>
    chainsOf(subject, group, calls),
  );
  const told = new Set(alike.flat());
  const others = calls.filter((call) => !told.has(call));
  return [...alike, ...chainsOf(subject, others, calls)];
}

/**
 * Runs of calls that only read, each of which waited for no other call than the one before.
 * @param calls those that may belong to a run, in order of their starts
 * @param all those that may have been waited for
 */
function chainsOf(subject: Subject, calls: readonly ExchangeRow[], all: readonly ExchangeRow[]): ExchangeRow[][] {
  const runs: Run[] = [];
  const open = new Map<ExchangeRow['index'], Run>();
  const byEnd = inOrderOfEnds(calls);
  const allByEnd = inOrderOfEnds(all);
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
  return runs.map((run) => run.calls).filter(({ length }) => length >= LEAST_CALLS);
}

/** Calls that follow one another, and the values that they had in their requests. */
interface Run {
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

function isIndependent(subject: Subject, call: ExchangeRow, before: ExchangeRow, run: Run): boolean {
  const asked = subject.evidenceOf(call.index)?.asked;
  const given = subject.evidenceOf(before.index)?.given;
  return asked === undefined || given === undefined || !usesAnswer(asked, given, run.asked);
}
