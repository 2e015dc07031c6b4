import { analyse, type ExchangeRow, takeFacts } from '#core/analysis';
import { isObject, type Json, normaliseEntry } from '#core/har';

/** An exchange by itself, as strips draw it. */
export function rowOf(entry: Json): ExchangeRow {
  if (!isObject(entry)) throw new Error('an entry is an object');
  const { rows } = analyse([takeFacts(normaliseEntry(entry, 0))], [], { type: 'whole' });
  const [row] = rows;
  if (row === undefined) throw new Error('an exchange has a row');
  return row;
}
