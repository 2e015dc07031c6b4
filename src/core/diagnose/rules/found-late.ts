import type { ExchangeRow } from '../../analysis';
import { documentAnswersMs } from '../../brief';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes } from '../say';
import { firstSendings } from '../tries';

/** Steps from the document at which something counts as found late: what its scripts and styles name (2) is as usual. */
const LATE_DEPTH = 3;
/** Less than a tenth of a second earlier looks the same, and naming something early can put others off. */
const WORTH_MS = 100;
/** A gain below this is none: it lies within what two recordings of one page differ by. */
const FELT_MS = 10;

const COULD_BE_NAMED: ReadonlySet<string> = new Set(['script', 'style', 'font', 'image', 'data']);

/** What stood on the route and was found only after several steps, though the document could have named it. */
export const foundLate: Rule = function* (subject) {
  for (const { rows, brief, load } of subject.pages) {
    const couldStart = documentAnswersMs(rows);
    if (couldStart === undefined || brief === undefined) continue;
    // Without a milestone what scripts call may as well follow what somebody did; a call with credentials of its own
    // cannot be named in a document.
    const canBeNamed = (row: ExchangeRow): boolean =>
      row.kind !== 'data' ||
      (brief.target !== 'lastExchange' && subject.evidenceOf(row.index)?.requestHeaders.has('authorization') !== true);
    const isLate = (row: ExchangeRow): boolean =>
      canBeNamed(row) &&
      ((row.depth ?? 0) >= LATE_DEPTH || subject.rowOf(row.namedBy)?.kind === 'data') &&
      COULD_BE_NAMED.has(row.kind) &&
      row.method === 'GET' &&
      (row.startMs ?? 0) - couldStart >= WORTH_MS;
    // What is asked for again had been found before.
    const all = firstSendings(rows).filter(isLate);
    const late = all.filter(({ index }) => subject.routeMsOf(index) > 0);
    const last = late.at(-1);
    if (last?.startMs === undefined) continue;
    const namer = subject.rowOf(last.namedBy);
    const isAssumed = last.parentEvidence === 'document';
    const parent = namer?.kind === 'data' ? namer : isAssumed ? undefined : subject.rowOf(last.parent);
    const change = { type: 'start-at', indexes: new Set(indexes(all)), startMs: couldStart } as const;
    const gainMs = load.gainMs([change]);
    // What held nothing up may be found as late as it likes.
    if (gainMs < FELT_MS) continue;
    yield {
      severity: 'costly',
      claim: `${called(last)} starts ${formatMs(last.startMs - couldStart)} after the document could have referenced it`,
      detail: `${parent === undefined ? 'It was discovered late.' : `It was discovered by way of ${called(parent)} (#${parent.index}).`} Referenced in the document it could start at ${formatMs(couldStart)} instead of ${formatMs(last.startMs)}; played again ${all.length === 1 ? 'so' : `with all ${all.length} that were discovered late referenced there`}, the load takes ${formatMs(brief.targetMs - brief.originMs - gainMs)}.`,
      evidence: indexes(late),
      changes: [change],
      remedy: 'Reference it in the document with rel=preload or modulepreload, or include the response in the page.',
      confidence: last.parentEvidence === 'document' ? 'weak' : 'strong',
    };
  }
};
