import type { ExchangeRow } from './exchange-row';

/** A page's document that was asked for and never came. */
export interface LostDocument {
  readonly asked: ExchangeRow;
  /** How often it was led elsewhere before that ended. */
  readonly redirects: number;
  /** The last that was asked for, which no answer came to. */
  readonly lost: ExchangeRow;
}

/**
 * The page's document, where none of those asked for was answered in the end: what was loaded then is a page of the
 * browser's own.
 * @param rows the exchanges of one page
 */
export function findLostDocument(rows: Iterable<ExchangeRow>): LostDocument | undefined {
  const asked: ExchangeRow[] = [];
  const ledTo = new Map<number, ExchangeRow>();
  for (const row of rows) {
    if (row.kind !== 'document') continue;
    if (row.parent === undefined) asked.push(row);
    else if (row.parentEvidence === 'redirect') ledTo.set(row.parent, row);
  }
  let first: LostDocument | undefined;
  for (const document of asked) {
    let last = document;
    let redirects = 0;
    // A parent comes before its child: the way has an end.
    for (let next = ledTo.get(last.index); next !== undefined; next = ledTo.get(last.index)) {
      last = next;
      redirects++;
    }
    const isLost = last.status === undefined && last.failure !== undefined && /^https?:/i.test(last.url);
    if (!isLost) return undefined;
    first ??= { asked: document, redirects, lost: last };
  }
  return first;
}
