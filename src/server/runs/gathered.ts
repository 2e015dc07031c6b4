import { readBody } from '#core/content';
import { EMPTY_DRAFT } from '#core/convert';
import { findResponse } from '#core/model';
import { type GatheredRow, Series } from '#core/series';
import type { Run } from '#core/wire';
import type { Connection } from '../db/connection';
import { listSteps } from '../db/runs';
import { getExchange } from '../dossier';
import { inflateWithZlib } from '../inflate';
import { loopOf } from './series';

/** The rows that a series has gathered, in the order of its values; one response in memory at a time. */
export function* gatheredRows(connection: Connection, { id, order }: Run): Generator<GatheredRow> {
  if (order.kind !== 'series') return;
  const series = new Series(EMPTY_DRAFT, loopOf(order));
  for (let after = 0; ; ) {
    const steps = listSteps(connection, id, after);
    if (steps.length === 0) return;
    for (const { number, rows = 0, label } of steps) {
      after = number;
      if (rows === 0) continue;
      const response = findResponse(getExchange(connection, id, number));
      if (response === undefined) continue;
      const { status, headers } = response;
      const { text } = readBody(response, inflateWithZlib);
      for (const json of series.rowsOf({ status, headers, text })) yield { json, value: label };
    }
  }
}
