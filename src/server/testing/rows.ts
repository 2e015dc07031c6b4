import type { ExchangeRow } from '#core/analysis';
import { unpackRows } from '#core/wire';

/** The exchanges of a capture as a running server gives them. @param at the capture's address */
export async function fetchRowsAt(at: string): Promise<ExchangeRow[]> {
  const answer = await fetch(`${at}/exchanges`);
  return unpackRows(new Uint8Array(await answer.arrayBuffer()));
}
