import { describe, expect, it } from 'vitest';
import { readSelection } from './selection';

const SHOWN = [90, 76, 77, 80, 83, 86];

describe('the numbers of a selection', () => {
  it.each([
    ['', [76, 77, 80, 83, 86, 90]],
    ['  ', [76, 77, 80, 83, 86, 90]],
    ['86, 76', [76, 86]],
    ['#77 #76;90', [76, 77, 90]],
    ['78-84', [80, 83]],
    ['76-77, 77-83', [76, 77, 80, 83]],
    ['#80–#90', [80, 83, 86, 90]],
  ])('%j means %j', (text, indexes) => expect(readSelection(text, SHOWN)).toEqual({ ok: true, indexes }));

  it.each([
    ['beds', '"beds" is not a number. Use numbers and ranges, e.g. 76, 80-86.'],
    ['76, 5', 'None of the 6 shown has the number 5.'],
    ['86-84', 'None of the 6 shown has the number 86-84.'],
  ])('%j cannot be meant', (text, problem) => expect(readSelection(text, SHOWN)).toEqual({ ok: false, problem }));
});
