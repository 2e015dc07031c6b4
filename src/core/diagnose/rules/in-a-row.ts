import type { ExchangeRow } from '../../analysis';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { called, groupBy, indexes, most, sum } from '../say';

const LEAST_CALLS = 3;
/** A call that starts so soon after the one before ended has waited for it. */
const SOON_MS = 60;

/** Calls to one endpoint, each begun when the one before had ended. */
export const inARow: Rule = function* (subject) {
  for (const { rows } of subject.pages) {
    const calls = rows.filter(
      ({ kind, method, failure }) => kind === 'data' && method === 'GET' && failure === undefined,
    );
    for (const [, group] of groupBy(calls, ({ endpoint }) => endpoint)) {
      for (const run of runsOf(group)) {
        const [first] = run;
        const last = run.at(-1);
        if (first === undefined || last === undefined) continue;
        const longest = most(run, ({ timeMs }) => timeMs);
        const whole = sum(run, ({ timeMs }) => timeMs);
        const onRoute = sum(run, ({ index }) => subject.routeMsOf(index));
        yield {
          severity: onRoute > 0 ? 'costly' : 'wasteful',
          claim: `${run.length} calls like ${called(first)} were made one after the other`,
          detail: `Together they took ${formatMs(whole)}; at once they would take as long as the longest, ${formatMs(longest)}.`,
          evidence: indexes(run),
          cost: { routeMs: Math.max(0, onRoute - longest), offRouteMs: whole - longest },
          remedy: 'Make them at once, or ask for all in one call, unless each needs the answer before it.',
          confidence: 'weak',
        };
      }
    }
  }
};

/** Calls that follow one another without overlap, in order of their starts. */
function runsOf(calls: readonly ExchangeRow[]): ExchangeRow[][] {
  const runs: ExchangeRow[][] = [];
  let run: ExchangeRow[] = [];
  for (const call of calls) {
    const before = run.at(-1);
    const gap = before === undefined ? 0 : (call.startMs ?? 0) - ((before.startMs ?? 0) + (before.timeMs ?? 0));
    if (before !== undefined && (gap < -1 || gap > SOON_MS)) {
      runs.push(run);
      run = [];
    }
    run.push(call);
  }
  return [...runs, run].filter(({ length }) => length >= LEAST_CALLS);
}
