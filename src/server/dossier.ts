import {
  bodyShape,
  type DecodedBody,
  decodeBody,
  fileNameOf,
  languageOf,
  readBody,
  type Shape,
  whyNoBody,
} from '#core/content';
import { isObject, normaliseEntry } from '#core/har';
import { type Exchange, findHeader, findResponse } from '#core/model';
import type { BodyView, ExchangeDossier } from '#core/wire';
import { findRow } from './db/captures';
import type { Connection } from './db/connection';
import { findEntry } from './db/entries';
import { inflateWithZlib } from './inflate';
import { ServerProblem } from './problem';

/** Text sent along with a dossier; the rest comes with the body itself. */
const TEXT_LIMIT_CHARS = 200_000;
/** No charset has longer characters; what is left of the last one is behind the limit in characters. */
const TEXT_LIMIT_BYTES = TEXT_LIMIT_CHARS * 4 + 4;

/** The exchange at a place, read from its kept entry. */
export function getExchange(connection: Connection, captureId: string, place: number): Exchange {
  const entry = findEntry(connection, captureId, place);
  if (entry === undefined || !isObject(entry.value)) {
    throw new ServerProblem('not-found', `There is no exchange #${place} here.`, 'Open it from its capture.');
  }
  return normaliseEntry(entry.value, place);
}

/** Everything about one exchange that the dossier shows. */
export function getDossier(connection: Connection, captureId: string, place: number): ExchangeDossier {
  const exchange = getExchange(connection, captureId, place);
  const row = findRow(connection, captureId, place);
  if (row === undefined) throw new Error(`exchange ${place} has no row`);
  return { row, exchange: withoutBody(exchange), body: viewBody(exchange) };
}

/** The decoded body of an exchange; undefined where none was recorded. */
export function findBody(exchange: Exchange): DecodedBody | undefined {
  const response = findResponse(exchange);
  return response === undefined ? undefined : decodeBody(response, inflateWithZlib);
}

function viewBody(exchange: Exchange): BodyView {
  const response = findResponse(exchange);
  const { kind, decoded, text, charsetType } = readBody(response, inflateWithZlib, TEXT_LIMIT_BYTES);
  const disposition = findHeader(response?.headers ?? [], 'content-disposition');
  return {
    kind,
    shape: decoded === undefined || decoded.bytes.length === 0 ? undefined : shapeOf(exchange, decoded),
    language: languageOf(response?.mimeType) ?? (kind === 'json' ? 'json' : undefined),
    fileName: fileNameOf(exchange.request.url, response?.mimeType, disposition),
    missing: decoded === undefined ? whyNoBody(exchange) : undefined,
    mimeType: response?.mimeType,
    byteLength: decoded?.bytes.length,
    unpackedFrom: decoded?.unpackedFrom,
    charsetType,
    text: text?.slice(0, TEXT_LIMIT_CHARS),
    isCut: text !== undefined && (text.length > TEXT_LIMIT_CHARS || (decoded?.bytes.length ?? 0) > TEXT_LIMIT_BYTES),
  };
}

/** What a body is shown as. */
export function shapeOf(exchange: Exchange, { bytes }: DecodedBody): Shape {
  return bodyShape(findResponse(exchange)?.mimeType, bytes);
}

function withoutBody(exchange: Exchange): Exchange {
  const { outcome } = exchange;
  if (outcome.type === 'unanswered') return exchange;
  return { ...exchange, outcome: { ...outcome, response: { ...outcome.response, body: undefined } } };
}
