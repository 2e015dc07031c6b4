import { groupBy } from '../../collections';
import type { RoundTrip } from '../../timing';
import { formatBytes, formatMs, formatPlural } from '../../wording';
import type { Matter, Rule, Subject, SubjectPage } from '../finding';
import { calledAll, indexes } from '../say';

/** More than the way across an ocean and back: from here on each step of a load is felt by itself. */
const LONG_TRIP_MS = 150;
/** One or two requests to a host say little of the way there. */
const LEAST_REQUESTS = 3;

/** A connection that each request waits long on, or that gave no more. */
export const slowConnection: Rule = function* (subject) {
  for (const page of subject.pages) {
    yield* longTrips(subject, page);
    yield* fullStretches(page);
  }
};

function* longTrips(subject: Subject, { rows }: SubjectPage): Generator<Matter> {
  const onRoute = rows.filter(({ source, index }) => source === 'network' && subject.routeMsOf(index) > 0);
  const far = onRoute.filter(({ host }) => (subject.tripOf(host)?.ms ?? 0) >= LONG_TRIP_MS);
  const asked = far.filter(({ host }) => rows.filter((row) => row.host === host).length >= LEAST_REQUESTS);
  const hosts = [...groupBy(asked, ({ host }) => host).keys()];
  const [host] = hosts;
  const trip = host === undefined ? undefined : subject.tripOf(host);
  if (host === undefined || trip === undefined) return;
  const isConnect = trip.from === 'connect';
  yield {
    severity: 'wasteful',
    claim: `The way to ${host}${hosts.length > 1 ? ` and ${formatPlural(hosts.length - 1, 'other host')}` : ''} and back ${isConnect ? 'takes' : 'may take'} ${formatMs(trip.ms)}`,
    detail: `${foundBy(trip)} ${calledAll(asked)} on the route ${asked.length === 1 ? 'waits' : 'each wait'} for it.`,
    evidence: indexes(asked),
    remedy: 'Serve from nearer to the reader, and have fewer requests wait for one another.',
    confidence: isConnect ? 'strong' : 'weak',
  };
}

function foundBy({ from, count }: RoundTrip): string {
  switch (from) {
    case 'connect':
      return count === 1 ? 'Its one connect took so long.' : `The least of ${formatPlural(count, 'connect')} to it.`;
    case 'wait':
      return `No response of ${count} came sooner; a server that is always slow would look the same, and a connect would tell them apart.`;
    case 'every-wait':
      return `No response of ${count} came sooner, though connects took next to no time: the browser may have been told to be slow, or have asked by a proxy.`;
    default:
      return from satisfies never;
  }
}

function* fullStretches({ rows, rate }: SubjectPage): Generator<Matter> {
  const full = rate?.full ?? [];
  if (rate === undefined || full.length === 0) return;
  const wholeMs = full.reduce((sum, { fromMs, toMs }) => sum + toMs - fromMs, 0);
  const receiving = rows.filter(({ startMs = 0, timeMs = 0, phases, wireBytes }) => {
    const endMs = startMs + timeMs;
    const fromMs = endMs - Math.min(timeMs, phases.receiveMs ?? 0);
    return (wireBytes ?? 0) > 0 && full.some((one) => fromMs < one.toMs && endMs > one.fromMs);
  });
  yield {
    severity: 'wasteful',
    claim: `The connection was full for ${formatMs(wholeMs)}: it gave ${formatBytes(rate.bytesPerMs * 1000)}/s and no more`,
    detail: `Meanwhile it carried ${calledAll(receiving)}. Downloads shared it: fewer bytes make all of them quicker, a quicker server none.`,
    evidence: indexes(receiving),
    remedy: 'Send fewer bytes before they are needed: compress, shrink images, load what is out of sight later.',
    confidence: 'strong',
  };
}
