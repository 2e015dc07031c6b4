import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import type { FailReason, Failure } from '../../model';
import { wordFailure } from '../../wording';
import type { Rule } from '../finding';
import { isRecovered } from '../repeats';
import { calledAll, indexes, sum } from '../say';
import { preflightRefused } from './preflight-refused';
import { redirectLoop } from './redirect-loop';

interface Told {
  readonly words: string;
  readonly remedy: string;
}

const NO_CERTIFICATE: Told = {
  words: 'failed: its certificate is not trusted',
  remedy: 'Renew the certificate, or have it cover this host.',
};
const NO_NAME: Told = {
  words: 'failed: its host has no address',
  remedy: 'Correct the host’s name, or its DNS entry.',
};
const HUNG_UP: Told = {
  words: 'failed: the server hung up without an answer',
  remedy: 'Look into the server’s log: it closed the connection.',
};
const NOT_ANSWERED: Told = {
  words: 'was not answered',
  remedy: 'Record again with the server’s log at hand.',
};

/** What is said of each reason. */
const TOLD: Record<FailReason, Told> = {
  cancelled: {
    words: 'was given up by the page',
    remedy: 'Nothing, where the page meant to; else see what navigates or aborts.',
  },
  'name-not-found': NO_NAME,
  'name-timed-out': NO_NAME,
  'invalid-http': {
    words: 'failed: what came is no HTTP',
    remedy: 'See what listens at this port: another protocol, or TLS where none was expected.',
  },
  refused: {
    words: 'failed: the connection was refused',
    remedy: 'See whether the service runs and listens at this port.',
  },
  'timed-out': {
    words: 'failed: no answer within the browser’s patience',
    remedy: 'See why the server does not answer; give it a limit.',
  },
  'certificate-expired': NO_CERTIFICATE,
  'certificate-name': NO_CERTIFICATE,
  'certificate-authority': NO_CERTIFICATE,
  certificate: NO_CERTIFICATE,
  tls: {
    words: 'failed: browser and server agreed on no secure connection',
    remedy: 'See that the port speaks TLS, and which versions and ciphers it offers.',
  },
  blocked: {
    words: 'was blocked before it was sent',
    remedy: 'A policy, an extension or mixed content blocks it: the console names which.',
  },
  'response-blocked': {
    words: 'was answered, but the browser kept the answer from the page',
    remedy: 'The console names the policy: CORS, Cross-Origin-Resource-Policy or opaque response blocking.',
  },
  'cache-miss': {
    words: 'failed: told to take only what is kept, and nothing was',
    remedy: 'Nothing, where the page meant to look into its cache only (only-if-cached).',
  },
  'empty-response': HUNG_UP,
  reset: HUNG_UP,
  unreachable: NOT_ANSWERED,
  offline: NOT_ANSWERED,
  'network-changed': NOT_ANSWERED,
  proxy: NOT_ANSWERED,
  'protocol-error': NOT_ANSWERED,
  'contradicting-headers': NOT_ANSWERED,
  'wrong-coding': NOT_ANSWERED,
  'too-many-redirects': NOT_ANSWERED,
  unknown: NOT_ANSWERED,
};

/** Empty documents and the like never leave the browser. */
const GOES_OUT = /^https?:/i;

type Unanswered = ExchangeRow & { readonly failure: Extract<Failure, { readonly type: 'no-response' }> };

const isUnanswered = (row: ExchangeRow): row is Unanswered =>
  row.failure?.type === 'no-response' && row.kind !== 'socket' && GOES_OUT.test(row.url);

/** Requests that were never answered, by host and reason. */
export const noAnswer: Rule = function* (subject) {
  const recovered = isRecovered(subject);
  // What its preflight was not given leave for is told there, and what went round in a circle.
  const told = new Set([...preflightRefused(subject), ...redirectLoop(subject)].flatMap(({ evidence }) => evidence));
  const rows = subject.rows.filter(isUnanswered).filter((row) => !told.has(row.index));
  const keyOf = ({ host, failure }: Unanswered): string => {
    const { words } = TOLD[failure.reason];
    return `${host} ${words === NOT_ANSWERED.words ? failure.recorded : words}`;
  };
  for (const [, group] of groupBy(rows, keyOf)) {
    const [first] = group;
    if (first === undefined || group.every(recovered)) continue;
    const { words, remedy } = TOLD[first.failure.reason];
    yield {
      severity: first.failure.reason === 'cancelled' ? 'note' : 'broken',
      claim: `${calledAll(group)} ${group.length === 1 ? words : words.replace(/^was/, 'were')}`,
      detail: `To ${first.host || 'an unknown host'}. The recorder wrote: ${wordFailure(first.failure)}.`,
      evidence: indexes(group),
      cost: { routeMs: sum(group, ({ index }) => subject.routeMsOf(index)) },
      remedy,
      confidence: 'certain',
    };
  }
};
