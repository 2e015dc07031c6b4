import { groupBy } from '../../collections';
import type { Rule } from '../finding';
import { called, indexes } from '../say';

/** Answers with status 200 whose body says that something went wrong. */
export const errorInSuccess: Rule = function* (subject) {
  const rows = subject.asked.filter(({ index }) => subject.evidenceOf(index)?.errorInside !== undefined);
  for (const [, group] of groupBy(rows, ({ endpoint }) => endpoint)) {
    const [first] = group;
    if (first === undefined) continue;
    const times = group.length === 1 ? '' : ` ${group.length} times`;
    yield {
      severity: 'broken',
      claim: `${called(first)} was answered ${first.status} with an error inside${times}`,
      detail: `It says: ${subject.evidenceOf(first.index)?.errorInside ?? ''}`,
      evidence: indexes(group),
      remedy: 'Read the error in its body; what counts answers by their status takes it for a success.',
      confidence: 'certain',
    };
  }
};
