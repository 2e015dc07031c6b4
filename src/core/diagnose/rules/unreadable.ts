import type { ExchangeRow } from '../../analysis';
import { groupBy } from '../../collections';
import { acceptsCoding } from '../../http';
import { isCutShort } from '../declared';
import type { Evidence } from '../evidence';
import type { Matter, Rule, Subject } from '../finding';
import { findRefusal } from '../refused-type';
import { calledAll, indexes, listed } from '../say';

interface Why {
  /** What follows the name: "is not valid JSON …". */
  readonly words: string;
  readonly many: string;
  readonly remedy: string;
  /** Certain where nothing else is said. */
  readonly confidence?: Matter['confidence'];
}

const NOT_DECOMPRESSED: Why = {
  words: 'could not be decompressed',
  many: 'could not be decompressed',
  remedy:
    'Check what compresses the body: whether it is in the coding that Content-Encoding names, whole, and compressed once.',
};

/** What a body was compressed by though its request did not accept it; undefined where that is not known (RFC 9110 12.5.3). */
function codingNotAccepted({ requestHeaders, responseHeaders }: Evidence): string | undefined {
  const coding = responseHeaders.get('content-encoding')?.trim().toLowerCase();
  const accepted = requestHeaders.get('accept-encoding');
  if (coding === undefined || accepted === undefined || !/^[\w.-]+$/.test(coding)) return undefined;
  return acceptsCoding(accepted, [coding]) ? undefined : coding;
}

function whyNotDecompressed(evidence: Evidence | undefined): Why {
  const coding = evidence === undefined ? undefined : codingNotAccepted(evidence);
  if (coding === undefined) return NOT_DECOMPRESSED;
  return {
    words: `came compressed by ${coding}, which its request did not accept`,
    many: `came compressed by ${coding}, which their requests did not accept`,
    remedy:
      'Have the server compress by what Accept-Encoding names, and send Vary: Accept-Encoding, so that no cache gives it to who does not take it.',
  };
}

/** Responses that cannot be used as what they are: by their bytes, their type, or their coding. */
export const unreadable: Rule = function* (subject) {
  const found = subject.asked.flatMap((row) => {
    const why = whyUnreadable(subject, row);
    return why === undefined ? [] : [{ row, why }];
  });
  for (const [, group] of groupBy(found, ({ row, why }) => `${row.host} ${row.kind} ${why.words}`)) {
    const rows = group.map(({ row }) => row);
    const [{ why }] = group;
    yield {
      severity: 'broken',
      claim: `${calledAll(rows)} ${rows.length === 1 ? why.words : why.many}`,
      detail: `${listed(rows)}, on ${rows[0]?.host ?? ''}.`,
      evidence: indexes(rows),
      remedy: why.remedy,
      confidence: why.confidence ?? 'certain',
    };
  }
};

function whyUnreadable(subject: Subject, row: ExchangeRow): Why | undefined {
  const evidence = subject.evidenceOf(row.index);
  const { failure, status } = row;
  if (failure !== undefined && failure.type === 'cut-off' && failure.reason === 'wrong-coding')
    return whyNotDecompressed(evidence);
  if (evidence === undefined || failure !== undefined || status === undefined || status >= 300) return undefined;
  // What broke off is told as that.
  if (isCutShort(row, evidence)) return undefined;
  // A page where something else was asked for is told as that.
  const refusal = evidence.isPage ? undefined : findRefusal(subject, row, evidence);
  if (refusal !== undefined) return refusal;
  switch (evidence.fault) {
    case undefined:
      return undefined;
    case 'json':
      return {
        words: 'says that it is JSON and does not parse',
        many: 'say that they are JSON and do not parse',
        remedy: 'Look at the body in its dossier: it shows the place where the JSON breaks.',
      };
    case 'integrity':
      return {
        words: 'is not what the page demands by its integrity attribute, so that browsers refuse it',
        many: 'are not what the page demands by its integrity attributes, so that browsers refuse them',
        remedy: 'Put the digest of the new file into the page, or find out who changed the file.',
      };
    case 'opaque':
      return {
        words: 'is of another origin, and its element says integrity without crossorigin, so that browsers refuse it',
        many: 'are of another origin, and their elements say integrity without crossorigin, so that browsers refuse them',
        remedy: 'Add crossorigin to the element, and have the server send Access-Control-Allow-Origin.',
      };
    case 'text':
      return {
        words: `is text, where ${ARTICLE[row.kind] ?? 'something else'} was asked for`,
        many: `are text, where ${ARTICLE[row.kind] ?? 'something else'} was asked for`,
        remedy: 'Look at the body in its dossier: mostly it says what went wrong on the server.',
      };
    default:
      return evidence.fault satisfies never;
  }
}

const ARTICLE: Readonly<Record<string, string>> = { image: 'an image', font: 'a font' };
