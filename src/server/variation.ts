import { compareCalls, type Variation } from '#core/analysis';
import { decodeText, readBody, readPayloadContent } from '#core/content';
import type { Exchange } from '#core/model';
import { findResponse } from '#core/model';
import type { Connection } from './db/connection';
import { getExchange } from './dossier';
import { inflateWithZlib } from './inflate';

/** Longer answers are not searched for cursors. */
const ANSWER_LIMIT_CHARS = 1_000_000;

/** Compares the calls at these places, in the order given. */
export function readVariation(connection: Connection, captureId: string, places: readonly number[]): Variation {
  return compareCalls(
    places.map((place) => {
      const exchange = getExchange(connection, captureId, place);
      const { text } = readBody(findResponse(exchange), inflateWithZlib);
      const answer = text === undefined || text.length > ANSWER_LIMIT_CHARS ? undefined : text;
      return { exchange, payload: payloadOf(exchange), answer };
    }),
  );
}

/** Text of a payload; absent where there is none. */
export function payloadOf(exchange: Exchange): string | undefined {
  const { payload } = exchange.request;
  const content = payload === undefined ? undefined : readPayloadContent(payload, exchange.request.bodyBytes);
  return content?.type === 'bytes' ? decodeText(content.bytes, payload?.mimeType) : undefined;
}
