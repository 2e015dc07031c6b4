import { groupBy } from '../../collections';
import { formatBytes, formatPlural, formatShare } from '../../wording';
import { LARGE_JSON_BYTES } from '../fields';
import type { Rule } from '../finding';
import { indexes, most, sum } from '../say';

/** Less than this share of a body is not worth a change of the service: packed, repeated names take a tenth of their bytes. */
const WORTH_SHARE = 0.25;
const NAMED = 5;

/** Large JSON of which much lies in fields that no script or page of the capture names. */
export const unusedFields: Rule = function* (subject) {
  const large = subject.asked.flatMap((row) => {
    const evidence = subject.evidenceOf(row.index);
    const fields = evidence?.fieldBytes;
    const whole = evidence?.recordedBytes ?? 0;
    if (fields === undefined || whole < LARGE_JSON_BYTES) return [];
    const unused = [...fields].filter(([name]) => subject.saysWord(name) === false).sort((a, b) => b[1] - a[1]);
    const share = Math.min(1, sum(unused, ([, bytes]) => bytes) / whole);
    return share < WORTH_SHARE ? [] : [{ row, unused, share, wireBytes: (row.wireBytes ?? 0) * share }];
  });
  for (const [endpoint, calls] of groupBy(large, ({ row }) => row.endpoint)) {
    const names = [...new Set(calls.flatMap(({ unused }) => unused.map(([name]) => name)))];
    const share = most(calls, (call) => call.share);
    const named = names.slice(0, NAMED).join(', ');
    yield {
      severity: 'wasteful',
      claim: `${formatShare(share)} of ${endpoint} is in fields that nothing recorded names`,
      detail: `Of ${formatBytes(most(calls, ({ row }) => row.bodyBytes))} of JSON, ${formatPlural(names.length, 'field')} (${named}${names.length > NAMED ? ' …' : ''}) are named in no recorded script or page. A script may read fields without naming them.`,
      evidence: indexes(calls.map(({ row }) => row)),
      wireBytes: sum(calls, ({ wireBytes }) => wireBytes),
      remedy: 'Ask the service for the fields that are shown, or have it leave the others out.',
      confidence: 'weak',
    };
  }
};
