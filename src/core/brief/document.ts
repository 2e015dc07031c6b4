import type { ExchangeRow } from '../analysis';

/** A page's own document, of its rows in the order of their starts: no redirect to it, and none of its frames. */
export const documentOf = (rows: readonly ExchangeRow[]): ExchangeRow | undefined =>
  rows.find(
    ({ kind, status = 0, parent, parentEvidence }) =>
      kind === 'document' &&
      !(status >= 300 && status < 400) &&
      (parent === undefined || parentEvidence === 'redirect'),
  );

/** When a page's document begins to come: the earliest moment at which it could name anything. In ms since the page's start. */
export function documentAnswersMs(rows: readonly ExchangeRow[]): number | undefined {
  const document = rows.find(({ kind, status }) => kind === 'document' && status !== undefined && status < 300);
  if (document?.startMs === undefined) return undefined;
  return document.startMs + (document.timeMs ?? 0) - (document.phases.receiveMs ?? 0);
}
