import type { Rule } from '../finding';
import { called } from '../say';

const NEVER_A_PAGE: ReadonlySet<string> = new Set(['script', 'style', 'image', 'font']);

/** A page of HTML where something else was asked for: a sign-in or an error page in disguise. */
export const wrongType: Rule = function* (subject) {
  for (const row of subject.rows) {
    const evidence = subject.evidenceOf(row.index);
    if (evidence?.isPage !== true || row.status === undefined || row.status >= 300) continue;
    const wantsJson = row.kind === 'data' && /json/i.test(evidence.requestHeaders.get('accept') ?? '');
    if (!NEVER_A_PAGE.has(row.kind) && !wantsJson) continue;
    yield {
      severity: 'broken',
      claim: `${called(row)} is a page of HTML where ${wantsJson ? 'JSON' : `a ${row.kind}`} was asked for`,
      detail: `It was answered ${row.status} as ${row.mimeType ?? 'no type at all'}.`,
      evidence: [row.index],
      cost: { routeMs: subject.routeMsOf(row.index) },
      remedy: 'Look at the page in its dossier: mostly it is a sign-in or an error page that was sent with status 200.',
      confidence: 'strong',
    };
  }
};
