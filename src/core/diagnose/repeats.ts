import type { ExchangeRow } from '../analysis';
import type { Subject } from './finding';

const sameRequest = (row: ExchangeRow): string => `${row.pageId ?? ''} ${row.method} ${row.operation ?? ''} ${row.url}`;

/** The same request sent later on the same page, soonest first; preflights are no repeats. */
export function laterRepeats({ rows }: Subject): (row: ExchangeRow) => readonly ExchangeRow[] {
  const groups = new Map<string, ExchangeRow[]>();
  for (const row of rows) {
    const key = sameRequest(row);
    const group = groups.get(key);
    if (group === undefined) groups.set(key, [row]);
    else group.push(row);
  }
  return (row) =>
    (groups.get(sameRequest(row)) ?? [])
      .filter(
        (other) => other.index !== row.index && (other.startMs ?? 0) >= (row.startMs ?? 0) + (row.timeMs ?? 0) - 1,
      )
      .sort((a, b) => (a.startMs ?? 0) - (b.startMs ?? 0));
}

/** True where the same request succeeded later. */
export function isRecovered(subject: Subject): (row: ExchangeRow) => boolean {
  const later = laterRepeats(subject);
  return (row) => later(row).some(({ failure }) => failure === undefined);
}
