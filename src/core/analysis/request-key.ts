import { hashText, type RequestPart } from '../model';
import type { ExchangeRow } from './exchange-row';

/** Payloads are told apart by so much of them. */
export const HASHED_CHARS = 1_000_000;

/** A payload's hash; undefined where none was recorded. */
export function hashPayload({ payload }: RequestPart): number | undefined {
  if (payload === undefined) return undefined;
  const { recorded, params } = payload;
  const text = recorded?.text.slice(0, HASHED_CHARS) ?? (params === undefined ? undefined : JSON.stringify(params));
  return text === undefined ? undefined : hashText(text);
}

/** The same for exchanges that made the same request: of one method, address, operation and payload. */
export const requestKey = (row: Pick<ExchangeRow, 'method' | 'url' | 'operation' | 'payloadHash'>): string =>
  `${row.method} ${row.url} ${row.operation ?? ''} ${row.payloadHash ?? ''}`;
