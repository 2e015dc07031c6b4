import { groupBy } from '../../collections';
import { readServerTiming } from '../../content';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { called, countLike, indexes, lastOf, timeCost } from '../say';

/** Beyond 400 ms people notice that they wait, and lose the thread of quick work. */
const SLOW_WAIT_MS = 400;
/** What a server may well take, half of that: only what is beyond counts as cost. */
const FAIR_WAIT_MS = 200;

/** Endpoints whose server takes long to answer, with what it says itself by Server-Timing. */
export const slowServer: Rule = function* (subject) {
  const slow = subject.rows.filter(
    ({ source, phases, kind, failure }) =>
      source === 'network' &&
      (phases.waitMs ?? 0) >= SLOW_WAIT_MS &&
      kind !== 'stream' &&
      kind !== 'socket' &&
      failure === undefined,
  );
  for (const [, rows] of groupBy(slow, ({ endpoint }) => endpoint)) {
    const [first] = rows.sort((a, b) => (b.phases.waitMs ?? 0) - (a.phases.waitMs ?? 0));
    if (first === undefined) continue;
    const metrics = readServerTiming([subject.evidenceOf(first.index)?.responseHeaders.get('server-timing') ?? ''])
      .filter(({ durationMs }) => durationMs !== undefined)
      .sort((a, b) => (b.durationMs ?? 0) - (a.durationMs ?? 0))
      .slice(0, 3)
      .map(({ name, durationMs }) => `${name} ${formatMs(durationMs)}`);
    yield {
      severity: rows.some(({ index }) => subject.routeMsOf(index) > 0) ? 'costly' : 'wasteful',
      claim:
        rows.length === 1
          ? `${first.host} took ${formatMs(first.phases.waitMs)} to answer ${called(first)}`
          : `${first.host} took up to ${formatMs(first.phases.waitMs)} to answer ${countLike(rows, first)}`,
      detail:
        metrics.length === 0
          ? 'The server does not say what took it so long: it sends no Server-Timing.'
          : `By its own Server-Timing: ${metrics.join(', ')}.`,
      evidence: indexes(rows),
      cost: timeCost(
        rows,
        (row) => lastOf(row, (row.phases.waitMs ?? 0) - FAIR_WAIT_MS),
        ({ index, phases }) => Math.min(subject.routeMsOf(index), phases.waitMs ?? 0) - FAIR_WAIT_MS,
      ),
      remedy: 'Look on the server where the time goes; keep the answer ready where it may be a little old.',
      confidence: 'certain',
    };
  }
};
