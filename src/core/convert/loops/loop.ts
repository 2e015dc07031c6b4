import type { JsonSteps } from '../../json';
import type { Variable } from '../draft';

/** What is done beyond one request. */
export type Loop =
  /** Goes through a parameter's values, and gathers the array at a place of each answer into CSV. */
  | {
      readonly type: 'pages';
      readonly parameter: string;
      readonly from: number;
      /** The last value; absent where only an empty list or the total ends it. */
      readonly to: number | undefined;
      readonly step: number;
      readonly list: JsonSteps;
      /** Where answers say how many there are in all. */
      readonly total: JsonSteps | undefined;
      /** After so many it stops, whatever the answers hold. */
      readonly mostPages: number;
      readonly pauseMs: number;
    }
  /** Asks again until a place of the answer is what it is waited for. */
  | {
      readonly type: 'poll';
      readonly at: JsonSteps;
      readonly until: string;
      readonly pauseMs: number;
      readonly most: number;
    }
  /** Writes the array at a place of the answer as CSV. */
  | { readonly type: 'table'; readonly list: JsonSteps }
  /** Downloads every address at a place of the answer, which may lead through each of an array. */
  | { readonly type: 'files'; readonly at: JsonSteps; readonly folder: string };

/** The variable that counts through a parameter's values. */
export const LOOP_VARIABLE: Variable = { name: 'page', value: '', isSecret: false };
