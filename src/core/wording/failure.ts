import type { Failure } from '../model';

const NO_ANSWER = 'no response';
const cutOffAfter = (status: number | ''): string => `cut off after status ${status}`;

/** Why an exchange failed, in a few words: ours, then the recorder's own. */
export function wordFailure(failure: Failure): string {
  switch (failure.type) {
    case 'no-response':
      return withRecorded(NO_ANSWER, failure.recorded);
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
export const FAILURE_WORDS = `${NO_ANSWER}: ${cutOffAfter('')}`;
