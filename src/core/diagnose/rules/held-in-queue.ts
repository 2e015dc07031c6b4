import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { formatMs } from '../../wording';
import type { Matter, Rule, Subject } from '../finding';
import { called, calledAll, indexes, most, those } from '../say';

/** Shorter waits are the browser's own bookkeeping. */
const HELD_MS = 50;

/** One or two images may have waited for something else. */
const LEAST_HELD_BACK = 3;

const DETAIL = {
  counted:
    'Six others had a connection meanwhile: over HTTP/1.1 browsers keep six to a host, each with one request at a time.',
  hidden:
    'Six older requests were still open when each began, and over HTTP/1.1 browsers keep six connections to a host. The recorder does not tell this wait apart: it is part of the phases that it wrote down, or was left out of them.',
} as const;

const REMEDY = 'Enable HTTP/2 or later for this host, or request fewer resources at once.';
const PLAIN_REMEDY =
  'Serve this host over https with HTTP/2 or later, which browsers speak over TLS only, or request fewer resources at once.';

/** Requests that waited for a free connection, six at a time to a host over HTTP/1.1, or for scripts that go first. */
export const heldInQueue: Rule = function* (subject) {
  yield* queuedForConnections(subject);
  yield* heldBehindCode(subject);
};

function* queuedForConnections(subject: Subject): Generator<Matter> {
  const queuedMs = ({ index }: ExchangeRow): number => subject.queueOf(index)?.ms ?? 0;
  const held = subject.rows.filter((row) => queuedMs(row) >= HELD_MS);
  const detailOf = ({ index }: ExchangeRow): keyof typeof DETAIL =>
    subject.queueOf(index)?.isCounted === true ? 'counted' : 'hidden';
  for (const [, rows] of groupBy(held, (row) => `${detailOf(row)} ${row.host}`)) {
    const [first] = rows;
    yield {
      severity: 'costly',
      claim: `${calledAll(rows)} to ${first.host} waited up to ${formatMs(most(rows, queuedMs))} for a connection`,
      detail: DETAIL[detailOf(first)],
      evidence: indexes(rows),
      changes: [{ type: 'unqueued', indexes: those(subject.rows.filter(({ host }) => host === first.host)) }],
      remedy: /^http:/i.test(first.url) ? PLAIN_REMEDY : REMEDY,
      confidence: 'strong',
    };
  }
}

function* heldBehindCode(subject: Subject): Generator<Matter> {
  const heldBackMs = ({ index }: ExchangeRow): number => subject.heldBackOf(index)?.ms ?? 0;
  for (const page of subject.pages) {
    const rows = page.rows.filter((row) => heldBackMs(row) > 0).sort((a, b) => heldBackMs(b) - heldBackMs(a));
    const [longest] = rows;
    const behind = longest && subject.rowOf(subject.heldBackOf(longest.index)?.behind[0]);
    if (behind === undefined || rows.length < LEAST_HELD_BACK) continue;
    yield {
      severity: 'wasteful',
      claim: `${calledAll(rows)} seem to have been held back for up to ${formatMs(most(rows, heldBackMs))} until ${called(behind)} had come`,
      detail:
        'They had no connection though fewer than six were in use: over HTTP/1.1 browsers let few images through while a script or style that stops the parser is on its way.',
      evidence: indexes([behind, ...rows]),
      remedy:
        'Make what stops the parser smaller, or load scripts with defer or async; name an image that matters with fetchpriority=high.',
      confidence: 'weak',
    };
  }
}
