import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { readServerTiming } from '../../content';
import { countWhile, type RoundTrip, serverMsOf } from '../../timing';
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
  if (slow.length === 0) return;
  const beside = neighboursIn(subject, slow);
  for (const [, rows] of groupBy(slow, ({ endpoint }) => endpoint)) {
    const [first] = rows.sort((a, b) => serverMs(b) - serverMs(a));
    if (isLongPoll(subject, rows)) continue;
    const trip = subject.tripOf(first.host);
    const isOneOfMany = waitedAmongMany(first, beside(first));
    yield {
      severity: 'costly',
      claim:
        rows.length === 1
          ? `Waiting for ${first.host} to respond to ${called(first)} took ${formatMs(first.phases.waitMs)}`
          : `Waiting for ${first.host} to respond to ${countLike(rows, first)} took up to ${formatMs(first.phases.waitMs)}`,
      detail: `${isOneOfMany ? CROWD : tellShare(serverMs(first), trip)} ${metricsOf(subject, first)}`,
      evidence: indexes(rows),
      changes: [{ type: 'answer-in', indexes: those(rows), waitMs: FAIR_SERVER_MS + (trip?.ms ?? 0) }],
      remedy: isOneOfMany
        ? 'Request fewer at once, for example by bundling; if it stays slow, profile this endpoint on the server.'
        : 'Profile this endpoint on the server; cache the response where slightly old data is acceptable.',
      confidence: trip === undefined || isOneOfMany ? 'weak' : 'strong',
    };
  }
};

const CROWD =
  'Most of what was requested from there around the same time waited as long, or at least half as long: their number may be the reason.';

function tellShare(serverMs: number, trip: RoundTrip | undefined): string {
  return trip === undefined
    ? 'How much of it is the way there and back is not known.'
    : `About ${formatMs(serverMs)} of it are the server’s: the way there and back takes about ${formatMs(trip.ms)}, ${tellSource(trip)}.`;
}

/** What the way there and back was seen in. */
function tellSource({ from, count }: RoundTrip): string {
  const what = from === 'connect' ? 'connect' : 'wait';
  return count === 1 ? `by its one ${what}` : `the least of ${formatPlural(count, what)}`;
}

/** So many of those that began just before it, and just after, are looked at. */
const NEIGHBOURS = 32;
/** From so many others in flight on they may be what made it slow: more than browsers request at once over HTTP/1.1. */
const MANY = 10;

/** For one of the slow: what was requested of its host just before it on its page, and just after. */
function neighboursIn(subject: Subject, slow: readonly ExchangeRow[]): (row: ExchangeRow) => readonly ExchangeRow[] {
  // Each page has a clock of its own.
  const keyOf = ({ pageId, host }: ExchangeRow): string => `${pageId} ${host}`;
  const keys = new Set(slow.map(keyOf));
  const sought = subject.rows.filter((row) => row.source === 'network' && keys.has(keyOf(row)));
  const groups = groupBy(
    sought.sort((a, b) => startOf(a) - startOf(b)),
    keyOf,
  );
  return (row) => {
    const own = groups.get(keyOf(row)) ?? [];
    const place = countWhile(own, (one) => startOf(one) < startOf(row));
    return own.slice(Math.max(0, place - NEIGHBOURS), place + NEIGHBOURS).filter((one) => one !== row);
  };
}

const startOf = ({ startMs = 0 }: ExchangeRow): number => startMs;

/** Whether most of many others that were in flight waited alike: it may have waited for its turn among them. */
function waitedAmongMany(slow: ExchangeRow, beside: readonly ExchangeRow[]): boolean {
  const { waitMs = 0 } = slow.phases;
  const inFlight = beside.filter(
    (one) => startOf(one) < startOf(slow) + waitMs && startOf(one) + (one.timeMs ?? 0) > startOf(slow),
  );
  const alike = inFlight.filter(({ phases }) => (phases.waitMs ?? 0) >= waitMs / 2);
  return inFlight.length >= MANY && alike.length > inFlight.length / 2;
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
