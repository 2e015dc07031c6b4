import { groupBy } from '../../collections';
import { isOneAtATime } from '../../timing';
import { formatBytes, formatPlural } from '../../wording';
import type { Rule } from '../finding';
import { indexes, sum } from '../say';

/** A Cookie header from here on fills most of a packet of its own. */
const HEAVY_BYTES = 1000;

/** Hosts to which every request carries large cookies. */
export const cookieWeight: Rule = function* (subject) {
  const bytesOf = (index: Parameters<typeof subject.evidenceOf>[0]): number =>
    subject.evidenceOf(index)?.cookieBytes ?? 0;
  const heavy = subject.rows.filter(({ index }) => bytesOf(index) >= HEAVY_BYTES);
  for (const [host, rows] of groupBy(heavy, (row) => row.host)) {
    const whole = sum(rows, ({ index }) => bytesOf(index));
    const each = rows.map(({ index }) => bytesOf(index));
    const areAlike = each.every((bytes) => formatBytes(bytes) === formatBytes(each[0]));
    // Later versions pack what they sent before into a few bytes (RFC 7541, RFC 9204): what it comes to is not recorded.
    const asTheyAre = rows.filter(({ protocol }) => isOneAtATime(protocol));
    const wireBytes = sum(asTheyAre, ({ index }) => bytesOf(index));
    const packed =
      asTheyAre.length === rows.length
        ? ''
        : ' Over HTTP/2 and later, what is sent again may be packed into a few bytes.';
    yield {
      severity: 'wasteful',
      claim: `${rows.length === 1 ? `A request to ${host} carries ${formatBytes(whole)} of cookies` : `Requests to ${host} carry ${formatBytes(whole / rows.length)} of cookies ${areAlike ? 'each' : 'on average'}`}`,
      detail: `${formatBytes(whole)} in all, over ${formatPlural(rows.length, 'request')}.${packed}`,
      evidence: indexes(rows),
      ...(wireBytes === 0 ? {} : { wireBytes }),
      remedy:
        'Store data on the server, limit cookies to the paths that use them, serve static files from a host without cookies.',
      confidence: 'certain',
    };
  }
};
