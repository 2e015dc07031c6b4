import type { FailReason, Failure } from '../model';
import { formatMs } from './format';

const NO_ANSWER = 'no response';
const KEPT_AWAY = 'response kept from the page';
const cutOffAfter = (status: number | ''): string => `cut off after status ${status}`;

/** Why an exchange failed, in a few words: ours, then the recorder's own. */
export function wordFailure(failure: Failure): string {
  switch (failure.type) {
    case 'no-response':
      return withRecorded(wasKeptAway(failure.reason) ? KEPT_AWAY : NO_ANSWER, failure.recorded);
    case 'cut-off':
      return withRecorded(cutOffAfter(failure.status), failure.recorded);
    case 'status':
      return `status ${failure.status} ${failure.statusText}`.trim();
    default:
      return failure satisfies never;
  }
}

const withRecorded = (words: string, recorded: string | undefined): string =>
  recorded === undefined ? words : `${words}: ${recorded}`;

/** All words of ours that a failure can be told in: they stand in no capture. */
export const FAILURE_WORDS = `${NO_ANSWER}: ${KEPT_AWAY}: ${cutOffAfter('')}`;

/** A response that the browser blocked had come; only what it was is not recorded. */
const wasKeptAway = (reason: FailReason): boolean => reason === 'response-blocked' || reason === 'blocked-by-corp';

/** What became of a response of which nothing was recorded, in a clause, as far as the reason tells it. */
export function wordNoResponse(reason: FailReason): string {
  if (wasKeptAway(reason)) return 'a response came, and the browser kept it from the page';
  if (reason === 'not-upgraded') return 'the server did not let the connection be upgraded';
  return reason === 'unknown' ? 'no response reached the page' : 'no response arrived';
}

/** The same as a sentence, with how long it took and what the recorder wrote of it, where that is known. */
export function tellNoResponse(failure: Failure | undefined, timeMs?: number): string {
  const { reason, recorded } =
    failure?.type === 'no-response' ? failure : { reason: 'unknown' as const, recorded: undefined };
  const what = wordNoResponse(reason);
  const after = timeMs === undefined || !what.startsWith('no') ? '' : ` after ${formatMs(timeMs)}`;
  const because = recorded === undefined ? ', and the capture does not say why' : `: ${recorded.replace(/\.$/, '')}`;
  return `${what.charAt(0).toUpperCase()}${what.slice(1)}${after}${because}.`;
}
