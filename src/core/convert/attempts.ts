import type { SequenceStep } from './carry';
import { payloadBytes } from './draft';

/** The steps that a script makes again, and what is left out of it, in sentences. */
export interface Attempts {
  readonly steps: readonly SequenceStep[];
  readonly notes: readonly string[];
}

const MOST_NAMED = 6;
/** Statuses of a server that is busy for a while (RFC 6585 4, RFC 9110 15.6). */
export const BUSY = [429, 502, 503, 504] as const;
const isBusy = (ended: SequenceStep['ended']): boolean => BUSY.some((status) => status === ended);

/**
 * Leaves out what a session did in vain: requests that no answer came to, those that failed and were sent again with
 * success, and the preflights that only browsers send. What failed for good stays: a script goes on behind it.
 */
export function withoutAttempts(steps: readonly SequenceStep[]): Attempts {
  const worked = new Map<string, SequenceStep>();
  const again = new Map<SequenceStep, SequenceStep>();
  for (const step of [...steps].reverse()) {
    if (step.ended === 'well') worked.set(requestOf(step), step);
    const later = worked.get(requestOf(step));
    if (typeof step.ended === 'number' && later !== undefined) again.set(step, later);
  }
  const preflights = steps.filter(({ ended }) => ended === 'preflight');
  const unanswered = steps.filter(({ ended }) => ended === 'unanswered');
  const notes = [
    ...tell(preflights, 'only browsers send a preflight first'),
    ...tell(unanswered, 'no response came in the capture'),
    ...[...again].map(
      ([step, later]) =>
        `#${step.index} is left out: it returned ${step.ended}, and sent again as #${later.index}${isBusy(step.ended) ? '; the script tries again, too' : ''}.`,
    ),
  ];
  const left = new Set([...preflights, ...unanswered, ...again.keys()]);
  const retriesOf = (kept: SequenceStep): number =>
    [...again].filter(([step, later]) => later === kept && isBusy(step.ended)).length;
  return {
    steps: steps.filter((step) => !left.has(step)).map((step) => ({ ...step, retries: retriesOf(step) })),
    notes,
  };
}

function tell(steps: readonly SequenceStep[], because: string): string[] {
  if (steps.length === 0) return [];
  const named = steps.slice(0, MOST_NAMED).map(({ index }) => `#${index}`);
  const more = steps.length - named.length;
  return [
    `${named.join(', ')}${more > 0 ? ` and ${more} more` : ''} ${steps.length === 1 ? 'is' : 'are'} left out: ${because}.`,
  ];
}

/** The same request again has the same method, address and payload. Its headers may differ: a token is renewed between. */
function requestOf({ draft }: SequenceStep): string {
  const bytes = payloadBytes(draft.payload);
  return JSON.stringify([draft.method, draft.url, bytes === undefined ? '' : new TextDecoder('latin1').decode(bytes)]);
}
