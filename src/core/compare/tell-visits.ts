import { formatBytes, formatCount, formatMs, formatPlural, formatSpan } from '../wording';
import type { LoadComparison } from './loads';
import { joined, less } from './tell';
import type { FetchedAgain, Visits } from './visits';

// What caches and connections made of the difference, in sentences.

const AGAIN_WORDS: Record<FetchedAgain, string> = {
  'not-storable': 'its response forbids storing it',
  'no-lifetime': 'its response says neither how long it is fresh nor what to ask by',
  expired: 'it had expired',
  'all-the-same': 'it could have been reused or asked about: the visit reloaded it, or the cache had dropped it',
};
export const whyFetchedAgain = (why: FetchedAgain): string => AGAIN_WORDS[why];

/** What the cache did for the later visit, in sentences. */
export function tellVisits({ spared, asked, fetchedAgain, afterMs, forecast }: Visits): string[] {
  const bytes = fetchedAgain.reduce((sum, { wireBytes }) => sum + (wireBytes ?? 0), 0);
  return [
    `The later visit began ${formatSpan(Math.round(afterMs / 1000) * 1000)} after the earlier one: ${formatPlural(spared.exchanges, 'response')} came from its cache (${formatBytes(spared.wireBytes)} that the earlier visit had on the wire), ${formatCount(asked)} ${asked === 1 ? 'was' : 'were'} asked about and confirmed.`,
    ...(fetchedAgain.length === 0
      ? []
      : [
          `${formatPlural(fetchedAgain.length, 'response')} with the very same bytes ${fetchedAgain.length === 1 ? 'was' : 'were'} fetched again: ${formatBytes(bytes)} on the wire.`,
        ]),
    ...(forecast === undefined
      ? []
      : [
          `The forecast of the earlier visit was right for ${formatCount(forecast.agreed)} of ${formatPlural(forecast.agreed + forecast.differing.length, 'response')}.`,
        ]),
  ];
}

/** What the connections to the network make of the difference; nothing where they hardly differ. */
export function tellConnections({ connections, ledger }: LoadComparison): string[] {
  const { isFarther, isNarrower, aloneMs, trips, rate } = connections;
  const [far] = [...trips].sort((one, other) => Math.abs(other.bMs - other.aMs) - Math.abs(one.bMs - one.aMs));
  const differences = [
    ...(isFarther && far !== undefined
      ? [`the way to ${far.host} and back takes ${formatMs(far.bMs)} instead of ${formatMs(far.aMs)}`]
      : []),
    ...(isNarrower && rate.a !== undefined && rate.b !== undefined
      ? [`at the best ${formatBytes(rate.b * 1000)} came in a second instead of ${formatBytes(rate.a * 1000)}`]
      : []),
  ];
  if (differences.length === 0) return [];
  const said = `The connections differ: ${joined(differences)}.`;
  if (aloneMs === undefined || ledger === undefined) return [said];
  const wholeMs = ledger.bMs - ledger.aMs;
  return [
    said,
    `With nothing but the other connection the load would have taken about ${formatMs(Math.abs(aloneMs))} ${less(aloneMs)}, of a difference of ${formatMs(Math.abs(wholeMs))}.`,
  ];
}
