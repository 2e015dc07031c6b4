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
    const says = subject.evidenceOf(first.index)?.errorInside ?? '';
    // A client that sends a hash alone is asked for the whole query so, and sends it then.
    const isAsked = /^PersistedQueryNotFound$/i.test(says);
    yield {
      severity: isAsked ? 'note' : 'broken',
      claim: `${called(first)} returned ${first.status} with an error inside${times}`,
      detail: `It says: ${says}`,
      evidence: indexes(group),
      remedy: isAsked
        ? 'Nothing, where the client sends the whole query next, as it does for a query that the server has not seen yet.'
        : 'See the error in the body; monitoring by status counts this as a success.',
      confidence: 'certain',
    };
  }
};
