import { originOf, stepOf } from '#core/convert';
import { placeOf } from '#core/sheet';
import type { ValueOrigin } from '#core/wire';
import { readRows } from '../db/captures';
import type { Connection } from '../db/connection';
import { getExchange } from '../dossier';
import { inflateWithZlib } from '../inflate';

/** More responses are not read: who waits for a key to be answered does not wait for a whole capture. */
const MOST_READ = 300;
/** Responses of other kinds are no data, and set cookies at most. */
const LARGEST_BYTES = 2_000_000;

/** The exchange before another one whose response was the last to give a value; undefined where none did. */
export function findOrigin(
  connection: Connection,
  captureId: string,
  before: number,
  value: string,
): ValueOrigin | undefined {
  const candidates = readRows(connection, captureId)
    .filter(
      ({ index, failure, bodyBytes }) => index < before && failure === undefined && (bodyBytes ?? 0) < LARGEST_BYTES,
    )
    .filter(({ kind, mimeType }) => kind === 'data' || kind === 'document' || /json/i.test(mimeType ?? ''))
    .slice(-MOST_READ);
  for (const row of candidates.toReversed()) {
    const found = originOf(stepOf(getExchange(connection, captureId, row.index), 'faithful', inflateWithZlib), value);
    if (found === undefined) continue;
    const { source, as } = found;
    return { exchange: row.index, ...placeOf(source), ...(as === 'plain' ? {} : { as }) };
  }
  return undefined;
}
