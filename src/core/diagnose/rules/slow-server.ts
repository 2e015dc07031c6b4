import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { readServerTiming } from '../../content';
import { type RoundTrip, serverMsOf } from '../../timing';
import { formatMs, formatPlural } from '../../wording';
import type { Rule, Subject } from '../finding';
import { called, countLike, indexes, those } from '../say';

/** Beyond 400 ms people notice that they wait, and lose the thread of quick work (Doherty threshold). */
const SLOW_SERVER_MS = 400;
/** What a server may well take, half of that: what is beyond is what could go. */
const FAIR_SERVER_MS = 200;

/** Endpoints whose server takes long to respond, by their waits less the way there and back, with what it says itself by Server-Timing. */
export const slowServer: Rule = function* (subject) {
  const serverMs = ({ host, phases }: ExchangeRow): number => serverMsOf(phases.waitMs ?? 0, subject.tripOf(host));
  const slow = subject.rows.filter(
    (row) =>
      row.source === 'network' &&
      row.failure === undefined &&
      row.kind !== 'stream' &&
      row.kind !== 'socket' &&
      row.kind !== 'report' &&
      serverMs(row) >= SLOW_SERVER_MS &&
      !isCrowdedOut(subject, row),
  );
  for (const [, rows] of groupBy(slow, ({ endpoint }) => endpoint)) {
    const [first] = rows.sort((a, b) => serverMs(b) - serverMs(a));
    if (isLongPoll(subject, rows)) continue;
    const trip = subject.tripOf(first.host);
    yield {
      severity: 'costly',
      claim:
        rows.length === 1
          ? `Waiting for ${first.host} to respond to ${called(first)} took ${formatMs(first.phases.waitMs)}`
          : `Waiting for ${first.host} to respond to ${countLike(rows, first)} took up to ${formatMs(first.phases.waitMs)}`,
      detail: `${trip === undefined ? 'How much of it is the way there and back is not known.' : `About ${formatMs(serverMs(first))} of it are the server’s: the way there and back takes about ${formatMs(trip.ms)}, ${tellSource(trip)}.`} ${metricsOf(subject, first)}`,
      evidence: indexes(rows),
      changes: [{ type: 'answer-in', indexes: those(rows), waitMs: FAIR_SERVER_MS + (trip?.ms ?? 0) }],
      remedy: 'Profile this endpoint on the server; cache the response where slightly old data is acceptable.',
      confidence: trip === undefined ? 'weak' : 'strong',
    };
  }
};

/** What the way there and back was seen in. */
function tellSource({ from, count }: RoundTrip): string {
  const what = from === 'connect' ? 'connect' : 'wait';
  return count === 1 ? `by its one ${what}` : `the least of ${formatPlural(count, what)}`;
}

/** A wait most of which lies in a time in which the connection was full: the response may have stood behind others. */
function isCrowdedOut(subject: Subject, { pageId, startMs = 0, timeMs = 0, phases }: ExchangeRow): boolean {
  const { waitMs = 0, receiveMs = 0 } = phases;
  const [fromMs, toMs] = [startMs + timeMs - receiveMs - waitMs, startMs + timeMs - receiveMs];
  const full = subject.pages.find(({ overview }) => overview?.id === pageId)?.rate?.full ?? [];
  const inside = full.reduce(
    (total, one) => total + Math.max(0, Math.min(toMs, one.toMs) - Math.max(fromMs, one.fromMs)),
    0,
  );
  return inside > waitMs / 2;
}

function metricsOf(subject: Subject, { index }: ExchangeRow): string {
  const metrics = readServerTiming([subject.evidenceOf(index)?.responseHeaders.get('server-timing') ?? ''])
    .filter(({ durationMs }) => durationMs !== undefined)
    .sort((a, b) => (b.durationMs ?? 0) - (a.durationMs ?? 0))
    .slice(0, 3)
    .map(({ name, durationMs }) => `${name} ${formatMs(durationMs)}`);
  return metrics.length === 0
    ? 'The server sends no Server-Timing that would say what took it so long.'
    : `By its own Server-Timing: ${metrics.join(', ')}.`;
}

const LONG_POLL_MS = 5000;
const AT_ONCE_MS = 200;

/** Calls that are held open until there is news, each sent as soon as the one before had its response. */
function isLongPoll(subject: Subject, rows: readonly ExchangeRow[]): boolean {
  const [first] = rows;
  if (first === undefined || rows.some(({ phases }) => (phases.waitMs ?? 0) < LONG_POLL_MS)) return false;
  const calls = subject.rows
    .filter(({ endpoint }) => endpoint === first.endpoint)
    .toSorted((a, b) => (a.startMs ?? 0) - (b.startMs ?? 0));
  const follow = calls.filter((call, at) => {
    const before = calls[at - 1];
    const endMs = (before?.startMs ?? 0) + (before?.timeMs ?? 0);
    return before !== undefined && Math.abs((call.startMs ?? 0) - endMs) <= AT_ONCE_MS;
  });
  return calls.length >= 2 && follow.length >= calls.length - 1;
}
