import type { ExchangeRow } from '../../analysis';
import type { Rule } from '../finding';
import { isRecovered } from '../repeats';
import { calledAll, groupBy, indexes, sum } from '../say';
import { preflightRefused } from './preflight-refused';
import { redirectLoop } from './redirect-loop';

/** Why no answer came, in match order. */
const REASONS: readonly (readonly [RegExp, string, string])[] = [
  [/abort|cancel/i, 'was given up by the page', 'Nothing, where the page meant to; else see what navigates or aborts.'],
  [
    /name.?not.?resolved|dns|enotfound/i,
    'failed: its host has no address',
    'Correct the host’s name, or its DNS entry.',
  ],
  [
    /invalid.?http|invalid.?response/i,
    'failed: what came is no HTTP',
    'See what listens at this port: another protocol, or TLS where none was expected.',
  ],
  [/refused/i, 'failed: the connection was refused', 'See whether the service runs and listens at this port.'],
  [
    /timed?.?out/i,
    'failed: no answer within the browser’s patience',
    'See why the server does not answer; give it a limit.',
  ],
  [/cert|ssl|tls/i, 'failed: its certificate is not trusted', 'Renew the certificate, or have it cover this host.'],
  [
    /blocked/i,
    'was blocked before it was sent',
    'A policy, an extension or mixed content blocks it: the console names which.',
  ],
  [
    /cache.?miss/i,
    'failed: told to take only what is kept, and nothing was',
    'Nothing, where the page meant to look into its cache only (only-if-cached).',
  ],
  [
    /empty.?response|connection.?(reset|closed)/i,
    'failed: the server hung up without an answer',
    'Look into the server’s log: it closed the connection.',
  ],
];

/** Empty documents and the like never leave the browser. */
const GOES_OUT = /^https?:/i;

const isUnanswered = (row: ExchangeRow): boolean =>
  row.status === undefined && row.failure !== undefined && row.kind !== 'socket' && GOES_OUT.test(row.url);

/** Requests that were never answered, by host and reason. */
export const noAnswer: Rule = function* (subject) {
  const recovered = isRecovered(subject);
  // What its preflight was not given leave for is told there, and what went round in a circle.
  const told = new Set([...preflightRefused(subject), ...redirectLoop(subject)].flatMap(({ evidence }) => evidence));
  const rows = subject.rows.filter((row) => isUnanswered(row) && !told.has(row.index));
  const reasonOf = (row: ExchangeRow) => REASONS.find(([pattern]) => pattern.test(row.failure ?? ''));
  for (const [, group] of groupBy(rows, (row) => `${row.host} ${reasonOf(row)?.[1] ?? row.failure}`)) {
    const [first] = group;
    if (first === undefined || group.every(recovered)) continue;
    const [, words, remedy] = reasonOf(first) ?? [
      undefined,
      'was not answered',
      'Record again with the server’s log at hand.',
    ];
    const isGivenUp = words === 'was given up by the page';
    yield {
      severity: isGivenUp ? 'note' : 'broken',
      claim: `${calledAll(group)} ${group.length === 1 ? words : words.replace(/^was/, 'were')}`,
      detail: `To ${first.host || 'an unknown host'}. The recorder wrote: ${first.failure}.`,
      evidence: indexes(group),
      cost: { routeMs: sum(group, ({ index }) => subject.routeMsOf(index)) },
      remedy,
      confidence: 'certain',
    };
  }
};
