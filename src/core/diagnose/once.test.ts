import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import type { Matter, Rule, Subject } from './finding';
import { mattersOf } from './once';

const MATTER: Matter = {
  severity: 'note',
  claim: 'a',
  detail: 'b',
  remedy: 'c',
  evidence: [],
  confidence: 'certain',
};

describe('what a rule finds', () => {
  it('is computed once for each subject, whoever asks', () => {
    let runs = 0;
    const rule: Rule = function* () {
      runs++;
      yield MATTER;
    };
    const [one, other] = [{}, {}] as Subject[];
    if (one === undefined || other === undefined) throw new Error('two subjects');
    expect([mattersOf(rule, one), mattersOf(rule, one)]).toEqual([[MATTER], [MATTER]]);
    expect(runs).toBe(1);
    mattersOf(rule, other);
    expect(runs).toBe(2);
  });

  it('is asked for by other rules in that way alone', () => {
    const folder = join(import.meta.dirname, 'rules');
    const texts = readdirSync(folder).map((name) => readFileSync(join(folder, name), 'utf8'));
    const rules = texts.flatMap((text) => /^export const (\w+): Rule/m.exec(text)?.[1] ?? []);
    expect(rules.length).toBeGreaterThan(40);
    const called = new RegExp(`\\b(?:${rules.join('|')})\\(subject`);
    expect(texts.flatMap((text) => called.exec(text)?.[0] ?? [])).toEqual([]);
  });
});
