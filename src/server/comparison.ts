import { compareExchanges, type ExchangeComparison } from '#core/compare';
import { readBody } from '#core/content';
import { findResponse } from '#core/model';
import type { Connection } from './db/connection';
import { getExchange } from './dossier';
import { inflateWithZlib } from './inflate';
import { payloadOf } from './variation';

/** What differs between two exchanges of a capture. */
export function readComparison(
  connection: Connection,
  captureId: string,
  here: number,
  there: number,
): ExchangeComparison {
  const [first, second] = [here, there].map((place) => {
    const exchange = getExchange(connection, captureId, place);
    const { text } = readBody(findResponse(exchange), inflateWithZlib);
    return { exchange, payload: payloadOf(exchange), body: text };
  });
  if (first === undefined || second === undefined) throw new Error('two exchanges are compared with each other');
  return compareExchanges(first, second);
}
