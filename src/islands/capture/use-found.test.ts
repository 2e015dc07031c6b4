import { describe, expect, it } from 'vitest';
import type { Finding } from '#core/diagnose';
import type { ExchangeIndex } from '#core/model';
import { keyOfFinding } from '../../core/diagnose';
import { findAsideKey } from './use-found';

const finding = (rule: Finding['rule'], ...evidence: number[]): Finding => ({
  rule,
  severity: 'wasteful',
  claim: '',
  detail: '',
  evidence: evidence as ExchangeIndex[],
  cost: {},
  remedy: '',
  confidence: 'certain',
});

describe('a finding that was dismissed', () => {
  it('is known again by its rule and its evidence', () => {
    const key = keyOfFinding(finding('too-many', 3, 17));
    expect(findAsideKey(finding('too-many', 3, 17), { [key]: 'a demo' })).toBe(key);
  });

  it('is aside on each of its pages, by the key of the whole', () => {
    const key = keyOfFinding(finding('slow-server', 3, 17, 40));
    expect(findAsideKey(finding('slow-server', 17), { [key]: 'known' })).toBe(key);
  });

  it.each([
    ['another rule', finding('slow-download', 17)],
    ['more than was dismissed', finding('slow-server', 17, 41)],
    ['a number that only begins alike', finding('slow-server', 1)],
    ['nothing to stand on', finding('slow-server')],
  ])('is not where there is %s', (_, other) => {
    const key = keyOfFinding(finding('slow-server', 3, 17, 40));
    expect(findAsideKey(other, { [key]: 'known' })).toBeUndefined();
  });
});
