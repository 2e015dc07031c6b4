import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { isRedirectStatus } from '../../http';
import type { ExchangeIndex } from '../../model';
import { formatPlural } from '../../wording';
import type { Rule, SubjectPage } from '../finding';
import { called, indexes } from '../say';

/** A chain of redirects that comes to the same address so often goes round in a circle. */
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
  const ledTo = new Map<ExchangeIndex, ExchangeRow>();
  for (const row of rows) if (row.parent !== undefined && row.parentEvidence === 'redirect') ledTo.set(row.parent, row);
  // What is asked for thrice, and leads elsewhere each time, goes round in no circle: it has to lead back to itself.
  const redirects = rows
    .filter(({ status, parentEvidence }) => isRedirectStatus(status) && parentEvidence !== 'redirect')
    .flatMap((first) => roundsFrom(first, ledTo))
    .sort((a, b) => (a.startMs ?? 0) - (b.startMs ?? 0) || a.index - b.index);
  const addresses = new Set(redirects.map(({ url }) => url));
  const givenUp = rows.filter(
    ({ failure, url }) =>
      failure?.type === 'no-response' && failure.reason === 'too-many-redirects' && addresses.has(url),
  );
  return { redirects, givenUp };
}

/** Of a chain of redirects, those whose address comes again and again. */
function roundsFrom(first: ExchangeRow, ledTo: ReadonlyMap<ExchangeIndex, ExchangeRow>): ExchangeRow[] {
  const chain = new Set<ExchangeRow>();
  for (let hop: ExchangeRow | undefined = first; hop !== undefined && !chain.has(hop); hop = ledTo.get(hop.index))
    if (isRedirectStatus(hop.status)) chain.add(hop);
    else break;
  return [...groupBy(chain, ({ url }) => url).values()].filter(({ length }) => length >= LEAST_ROUNDS).flat();
}
