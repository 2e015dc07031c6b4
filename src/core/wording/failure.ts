import type { FailReason, Failure } from '../model';
import { capitalised } from './capitalised';
import { formatMs } from './format';

interface Lack {
  /** In lists. */
  readonly words: string;
  /** A clause of its own. */
  readonly clause: string;
}

const NONE: Lack = { words: 'no response', clause: 'no response arrived' };
const KEPT: Lack = {
  words: 'response kept from the page',
  clause: 'a response came, and the browser kept it from the page',
};
const BROKEN: Lack = { words: 'no valid response', clause: 'what came was no valid response' };

/** What there was of a response where none was recorded, as far as the reason tells it; for all others it is none. */
const LACKS: Partial<Record<FailReason, Lack>> = {
  'response-blocked': KEPT,
  'blocked-by-corp': KEPT,
  'invalid-http': BROKEN,
  'contradicting-headers': BROKEN,
  'wrong-coding': BROKEN,
  'bad-redirect': { words: NONE.words, clause: 'a redirect came that the browser did not follow' },
  'too-many-redirects': { words: NONE.words, clause: 'one more redirect came' },
  'not-upgraded': { words: NONE.words, clause: 'the server did not let the connection be upgraded' },
  // CORS may be behind it, and then there was one.
  unknown: { words: NONE.words, clause: 'no response reached the page' },
};
const lackOf = (reason: FailReason): Lack => LACKS[reason] ?? NONE;

const cutOffAfter = (status: number | ''): string => `cut off after status ${status}`;

/** Why an exchange failed, in a few words: ours, then the recorder's own. */
export function wordFailure(failure: Failure): string {
  switch (failure.type) {
    case 'no-response':
      return withRecorded(lackOf(failure.reason).words, failure.recorded);
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

const OWN_WORDS = [NONE, KEPT, BROKEN].map(({ words }) => words).concat(cutOffAfter(''));

/** Whether a text in lower case may stand in what a failure is told in, our own words and then its recorder's: ours stand in no capture. */
export function isOfFailureWords(text: string): boolean {
  const [head = '', ...more] = text.split(': ');
  const reachesIn = (words: string): boolean => more.length > 0 && words.endsWith(head);
  return (
    OWN_WORDS.some((words) => `${words}: `.includes(text) || text.includes(words.trim()) || reachesIn(words)) ||
    /status \d/.test(text)
  );
}

/** What became of a response of which nothing was recorded, in a clause, as far as the reason tells it. */
export const wordNoResponse = (reason: FailReason): string => lackOf(reason).clause;

/** The same as a sentence, with how long it took and what the recorder wrote of it, where that is known. */
export function tellNoResponse(failure: Failure | undefined, timeMs?: number): string {
  const { reason, recorded } =
    failure?.type === 'no-response' ? failure : { reason: 'unknown' as const, recorded: undefined };
  const what = wordNoResponse(reason);
  const after = timeMs === undefined || !what.startsWith('no') ? '' : ` after ${formatMs(timeMs)}`;
  const because = recorded === undefined ? ', and the capture does not say why' : `: ${recorded.replace(/\.$/, '')}`;
  return `${capitalised(what)}${after}${because}.`;
}
