import type { JsonSteps } from '../../json';
import type { Variable } from '../draft';

/** Where a response says a number: in its JSON, or the number that a header ends in. */
export type NumberPlace =
  | { readonly in: 'json'; readonly at: JsonSteps }
  | { readonly in: 'header'; readonly name: string };

/** Where a response names the page behind it: a cursor or an address in its JSON, or its Link header (RFC 8288, rel=next). */
export type NextPlace = { readonly in: 'json'; readonly at: JsonSteps } | { readonly in: 'link' };

/** What rows are written as: a table when the loop has ended, or each as it comes. */
export const ROW_FORMATS = ['csv', 'jsonl'] as const;
export type RowFormat = (typeof ROW_FORMATS)[number];

/** What loops over pages have in common: the array at a place of each response is gathered. */
interface Gathering {
  readonly list: JsonSteps;
  readonly rows: RowFormat;
  /** After so many it stops, whatever the responses hold. */
  readonly mostPages: number;
  readonly pauseMs: number;
}

/** What is done beyond one request. */
export type Loop =
  /** Goes through a parameter's values. */
  | (Gathering & {
      readonly type: 'pages';
      readonly parameter: string;
      readonly from: number;
      /** The last value; absent where only the responses end it. */
      readonly to: number | undefined;
      /** How far the next value is: a number, or as many as came. */
      readonly step: number | 'rows';
      /** Where responses say how many rows there are in all. */
      readonly total: NumberPlace | undefined;
      /** Where they say how many pages there are. */
      readonly pages: NumberPlace | undefined;
      /** A page with fewer rows than the first is the last. */
      readonly shortEnds: boolean;
    })
  /** Goes on with what each response names as next: a cursor that the parameter gets, or without one an address. */
  | (Gathering & { readonly type: 'follow'; readonly parameter: string | undefined; readonly next: NextPlace })
  /** Goes through values that were given: a list, or days. */
  | (Gathering & { readonly type: 'values'; readonly parameter: string; readonly values: readonly string[] })
  /** Asks again until a place of the response, or its status, is what is waited for. */
  | {
      readonly type: 'poll';
      readonly until:
        | { readonly in: 'json'; readonly at: JsonSteps; readonly text: string }
        | { readonly in: 'status'; readonly status: number };
      readonly pauseMs: number;
      readonly most: number;
    }
  /** Writes the array at a place of the response. */
  | { readonly type: 'table'; readonly list: JsonSteps; readonly rows: RowFormat }
  /** Downloads every address at a place of the response, which may lead through each of an array. */
  | { readonly type: 'files'; readonly at: JsonSteps; readonly folder: string };

/** The variable that goes through a parameter's values. */
export const LOOP_VARIABLE: Variable = { name: 'page', value: '', isSecret: false };
