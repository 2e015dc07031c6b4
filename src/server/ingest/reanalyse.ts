import { analyse, type ExchangeFacts, FactsPool, takeFacts } from '#core/analysis';
import { isObject, normaliseEntry, normalisePage } from '#core/har';
import { packBlocks } from '#core/wire';
import { findOutdated, findWithoutRows, getOutline, writeAnalysis } from '../db/captures';
import type { Connection } from '../db/connection';
import { readEntries } from '../db/entries';
import { dropFindings } from '../db/findings';

/** Analyses again what an older version analysed. Returns how many captures that were. */
export function reanalyseOutdated(connection: Connection): number {
  const ids = findOutdated(connection);
  for (const id of ids) connection.sqlite.transaction(() => reanalyse(connection, id)).immediate();
  return ids.length;
}

/**
 * Analyses captures whose rows an older version kept in another form: without rows nothing of them can be shown, so this
 * is done before the first view is asked for.
 */
export function reanalyseWithoutRows(connection: Connection): void {
  for (const id of findWithoutRows(connection))
    connection.sqlite.transaction(() => reanalyse(connection, id)).immediate();
}

/** Analyses a capture as it is now. */
export function reanalyse(connection: Connection, id: string): void {
  const { pages, completeness } = getOutline(connection, id);
  const facts: ExchangeFacts[] = [];
  const pool = new FactsPool();
  // One entry at a time: with their bodies a capture's entries may be more than memory holds.
  for (const { value, place } of readEntries(connection, id))
    if (isObject(value)) facts.push(pool.share(takeFacts(normaliseEntry(value, place))));
  const { rows, overview } = analyse(facts, pages.map(normalisePage), completeness);
  writeAnalysis(connection, id, packBlocks(rows), overview);
  // Its bodies are read again behind this.
  dropFindings(connection, id);
}
