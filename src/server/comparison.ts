import { nameExchange } from '#core/analysis';
import { type ComparedSide, compareExchanges, readPastedExchange } from '#core/compare';
import { readBody } from '#core/content';
import { findResponse } from '#core/model';
import type { ComparedHead, ExchangeFrom, ExchangesAnswer } from '#core/wire';
import { findCapture, findRow } from './db/captures';
import type { Connection } from './db/connection';
import { getExchange } from './dossier';
import { inflateWithZlib } from './inflate';
import { ServerProblem } from './problem';
import { payloadOf } from './variation';

/** What differs between two exchanges, wherever they are from. */
export function readComparison(connection: Connection, here: ExchangeFrom, there: ExchangeFrom): ExchangesAnswer {
  const [one, other] = [readSide(connection, here), readSide(connection, there)];
  return { here: one.head, there: other.head, comparison: compareExchanges(one.side, other.side) };
}

function readSide(
  connection: Connection,
  from: ExchangeFrom,
): { readonly side: ComparedSide; readonly head: ComparedHead } {
  if ('pasted' in from) return readPastedSide(from.pasted);
  const card = findCapture(connection, from.capture);
  if (card === undefined)
    throw new ServerProblem(
      'not-found',
      'One of the captures is not on the shelf.',
      'Go to the shelf and choose another one.',
    );
  const exchange = getExchange(connection, from.capture, from.place);
  const { text, kind } = readBody(findResponse(exchange), inflateWithZlib);
  const row = findRow(connection, from.capture, from.place);
  return {
    side: { exchange, payload: payloadOf(exchange), body: text },
    head: {
      name: row === undefined ? `#${from.place}` : `#${from.place} ${nameExchange(row)}`,
      captureName: card.name,
      row,
      isPicture: kind === 'image',
    },
  };
}

function readPastedSide(text: string): { readonly side: ComparedSide; readonly head: ComparedHead } {
  const side = readPastedExchange(text);
  if (side === undefined)
    throw new ServerProblem(
      'invalid-input',
      'The pasted text is neither a request nor a response.',
      'Paste a curl command, a fetch call, an HTTP request, or a response from its status line on.',
    );
  const isResponse = side.has?.includes('response') === true;
  const name = isResponse ? 'pasted response' : `pasted ${side.exchange.request.method} request`;
  return { side, head: { name, captureName: undefined, row: undefined, isPicture: false } };
}
