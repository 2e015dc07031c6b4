import type { ExchangeRow } from '../../analysis';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { firstSendings } from '../repeats';
import { called, indexes } from '../say';

/** Steps from the document at which something counts as found late. */
const LATE_DEPTH = 3;
/** Less than this earlier is not worth the trouble. */
const WORTH_MS = 100;

const COULD_BE_NAMED: ReadonlySet<string> = new Set(['script', 'style', 'font', 'image', 'data']);

/** What stood on the route and was found only after several steps, though the document could have named it. */
export const foundLate: Rule = function* (subject) {
  for (const { rows, brief } of subject.pages) {
    const document = rows.find(({ kind, status }) => kind === 'document' && status !== undefined && status < 300);
    if (document?.startMs === undefined || brief === undefined) continue;
    const couldStart = document.startMs + (document.timeMs ?? 0) - (document.phases.downloadMs ?? 0);
    const isLate = (row: ExchangeRow): boolean =>
      subject.routeMsOf(row.index) > 0 &&
      ((row.depth ?? 0) >= LATE_DEPTH || subject.rowOf(row.namedBy)?.kind === 'data') &&
      COULD_BE_NAMED.has(row.kind) &&
      row.method === 'GET' &&
      (row.startMs ?? 0) - couldStart >= WORTH_MS;
    // What is asked for again had been found before.
    const late = firstSendings(rows).filter(isLate);
    const last = late.at(-1);
    if (last?.startMs === undefined) continue;
    const namer = subject.rowOf(last.namedBy);
    const parent = namer?.kind === 'data' ? namer : subject.rowOf(last.parent);
    yield {
      severity: 'costly',
      claim: `${called(last)} starts ${formatMs(last.startMs - couldStart)} after the document could have named it`,
      detail: `${parent === undefined ? 'It was found late.' : `Only ${called(parent)} (#${parent.index}) made it known.`} Named in the document it could have started at ${formatMs(couldStart)} instead of ${formatMs(last.startMs)}.`,
      evidence: indexes(late),
      // What it would gain at most: the route's time between the two starts.
      cost: { routeMs: Math.min(last.startMs, brief.targetMs) - couldStart },
      remedy:
        'Name it in the document, by a link with rel=preload or modulepreload, or send the answer along with the page.',
      confidence: last.parentEvidence === 'document' ? 'weak' : 'strong',
    };
  }
};
