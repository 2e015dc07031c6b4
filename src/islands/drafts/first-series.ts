import { FIRST_LOOP, type LoopFields, placeParameter } from '#core/convert';
import type { KeptDraft } from '#core/sheet';

/**
 * What a series of a draft goes through at first: what its loop says already; else the parameter of the line under the cursor,
 * counted where it is a number; else the next page, where the captured response names one, or its page counter.
 */
export function firstSeries({ draft, loop = FIRST_LOOP }: KeptDraft, lineName: string): LoopFields {
  if (loop.kind !== 'one' && loop.kind !== 'poll') return loop;
  if (lineName !== '') {
    const { first } = placeParameter(draft, lineName, 'numbers');
    const [, number] = /^"?(-?\d+)"?$/.exec(first) ?? [];
    if (number !== undefined) return { ...loop, kind: 'pages', parameter: lineName, from: number };
    return { ...loop, kind: 'values', parameter: lineName };
  }
  if (loop.next !== '') return { ...loop, kind: 'follow' };
  return loop.total !== '' || loop.pages !== '' ? { ...loop, kind: 'pages' } : loop;
}
