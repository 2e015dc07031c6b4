import { analyse, type ExchangeFacts, FactsPool, takeFacts } from '#core/analysis';
import { isObject, normaliseEntry, normalisePage } from '#core/har';
import { packBlocks } from '#core/wire';
import { findOutdated, findWithoutRows, getOutline, writeAnalysis } from '../db/captures';
import type { Connection } from '../db/connection';
import { readEntries } from '../db/entries';
import { dropFindings } from '../db/findings';

/**
 * Analyses again what an older version analysed. The database is held for the writing alone. Returns how many captures that
 * were.
 */
export function reanalyseOutdated(connection: Connection): number {
  const ids = findOutdated(connection);
  for (const id of ids) {
    const analysed = analyseAnew(connection, id);
    const keepIfOutdated = (): void => {
      // What was added to it meanwhile had it analysed with all that it holds now.
      if (findOutdated(connection).includes(id)) keep(connection, id, analysed);
    };
    connection.sqlite.transaction(keepIfOutdated).immediate();
  }
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
export const reanalyse = (connection: Connection, id: string): void =>
  keep(connection, id, analyseAnew(connection, id));

type Analysis = ReturnType<typeof analyse>;

function analyseAnew(connection: Connection, id: string): Analysis {
  const { pages, completeness } = getOutline(connection, id);
  const facts: ExchangeFacts[] = [];
  const pool = new FactsPool();
  // One entry at a time: with their bodies a capture's entries may be more than memory holds.
  for (const { value, place } of readEntries(connection, id))
    if (isObject(value)) facts.push(pool.share(takeFacts(normaliseEntry(value, place))));
  return analyse(facts, pages.map(normalisePage), completeness);
}

function keep(connection: Connection, id: string, { rows, overview }: Analysis): void {
  writeAnalysis(connection, id, packBlocks(rows), overview);
  // Its bodies are read again behind this.
  dropFindings(connection, id);
}
