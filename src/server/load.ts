import { foretell, takeVisitItem, type VisitItem } from '#core/cache';
import { type ExchangeTraits, takeTraits } from '#core/compare';
import { type CaptureCard, type LoadAnswer, packTraits } from '#core/wire';
import { readRows } from './db/captures';
import type { Connection } from './db/connection';
import { readBodyHashes } from './db/entries';
import { findFindings } from './db/findings';
import { eachExchange } from './named-columns';

/**
 * A capture as a comparison needs it.
 * @param afterSeconds so long after it the other visit began: what that does with each response is foretold
 */
export async function readLoad(
  connection: Connection,
  card: CaptureCard,
  afterSeconds: number | undefined,
): Promise<LoadAnswer> {
  const rows = readRows(connection, card.id);
  const hashes = readBodyHashes(connection, card.id);
  const traits = new Map<number, ExchangeTraits>();
  const visits = new Map<number, VisitItem>();
  const preflights = new Map<number, (typeof rows)[number]['preflightFor']>(
    rows.map((row) => [row.index, row.preflightFor]),
  );
  await eachExchange(connection, card.id, (exchange) => {
    traits.set(exchange.index, takeTraits(exchange, hashes.get(exchange.index)));
    if (afterSeconds !== undefined) visits.set(exchange.index, takeVisitItem(exchange, preflights.get(exchange.index)));
  });
  const ofRows = <T>(values: ReadonlyMap<number, T>): T[] => rows.flatMap(({ index }) => values.get(index) ?? []);
  const found = findFindings(connection, card.id);
  return {
    card,
    traits: packTraits(ofRows(traits)),
    found: found === undefined || found.problem !== undefined ? null : found,
    foretold: afterSeconds === undefined ? null : foretell(ofRows(visits), afterSeconds),
  };
}
