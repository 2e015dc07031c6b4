import { describe, expect, it } from 'vitest';
import { isMeantBy } from './action-words';

const EXPORT = { id: 'export', label: 'Export: the chart or the exchanges as a file' };

describe('an action is meant', () => {
  it.each(['export', 'csv', 'save', 'down', 'Chart as', ''])('by %j', (words) =>
    expect(isMeantBy(words, EXPORT)).toBe(true),
  );

  it.each(['xport', 'theme', 'csv theme'])('not by %j', (words) => expect(isMeantBy(words, EXPORT)).toBe(false));

  it('by the beginnings of its words, in any order', () => {
    const lanes = { id: 'lanes', label: 'Choose the lanes' };
    expect(isMeantBy('host group', lanes)).toBe(true);
    expect(isMeantBy('host sort', lanes)).toBe(false);
  });
});
