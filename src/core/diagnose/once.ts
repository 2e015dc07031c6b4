import type { Matter, Rule, Subject } from './finding';

/** Computes something of a subject once, however many rules ask for it. */
export function once<T extends object>(compute: (subject: Subject) => T): (subject: Subject) => T {
  const kept = new WeakMap<Subject, T>();
  return (subject) => {
    const known = kept.get(subject);
    if (known !== undefined) return known;
    const computed = compute(subject);
    kept.set(subject, computed);
    return computed;
  };
}

const byRule = once((): Map<Rule, readonly Matter[]> => new Map());

/** What a rule finds: some leave out what another has told already, and none is run twice for that. */
export function mattersOf(rule: Rule, subject: Subject): readonly Matter[] {
  const found = byRule(subject);
  const known = found.get(rule);
  if (known !== undefined) return known;
  const matters = [...rule(subject)];
  found.set(rule, matters);
  return matters;
}
