import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { isRedirectStatus } from '../../http';
import { formatPlural } from '../../wording';
import type { Rule, SubjectPage } from '../finding';
import { called, indexes } from '../say';

/** The same address redirected so often on one page goes round in a circle. */
const LEAST_ROUNDS = 3;
const NAMED = 3;

/** Redirects that lead back to where they came from, until the browser gives up. */
export const redirectLoop: Rule = function* (subject) {
  for (const page of subject.pages) {
    const { redirects, givenUp } = findLoop(page);
    if (redirects.length === 0) continue;
    const names = [...new Set(redirects.map(called))];
    const shown = `${names.slice(0, NAMED).join(' and ')}${names.length > NAMED ? ' and others' : ''}`;
    const all = [...redirects, ...givenUp];
    yield {
      severity: 'broken',
      claim:
        names.length === 1
          ? `${shown} redirects to itself: ${redirects.length} times in a row`
          : `${shown} redirect to one another: ${redirects.length} redirects in a loop`,
      detail: `${givenUp.length > 0 ? `Then the browser gave up, and no ${givenUp.some(({ kind }) => kind === 'document') ? 'page' : 'response'} came` : 'Browsers give up after some twenty rounds'}. ${formatPlural(names.length, 'address', 'addresses')}, each time with ${[...new Set(redirects.map(({ status }) => status))].join(' or ')}.`,
      evidence: indexes(all),
      remedy: 'Compare the Location of each hop: two rules send to one another, often for https, www or a sign-in.',
      confidence: 'certain',
    };
  }
};

/** The redirects of a page that go round, and the exchange at which the browser had enough. */
export function findLoop({ rows }: SubjectPage): {
  readonly redirects: readonly ExchangeRow[];
  readonly givenUp: readonly ExchangeRow[];
} {
  const hops = rows.filter(({ status }) => isRedirectStatus(status));
  const rounds = [...groupBy(hops, ({ url }) => url).values()].filter(({ length }) => length >= LEAST_ROUNDS);
  const redirects = rounds.flat().sort((a, b) => (a.startMs ?? 0) - (b.startMs ?? 0) || a.index - b.index);
  const addresses = new Set(redirects.map(({ url }) => url));
  const givenUp = rows.filter(
    ({ failure, url }) =>
      failure?.type === 'no-response' && failure.reason === 'too-many-redirects' && addresses.has(url),
  );
  return { redirects, givenUp };
}
