import { eq } from 'drizzle-orm';
import { analyse, type ExchangeFacts, FactsPool, takeFacts } from '#core/analysis';
import { type HarEnd, HarReader, isObject, normaliseEntry } from '#core/har';
import type { Capture } from '#core/model';
import type { ImportResult } from '#core/wire';
import { findByHash, restoreByHash, writeAnalysis } from '../db/captures';
import type { Connection } from '../db/connection';
import { entryWriter } from '../db/entries';
import { captures, pages } from '../db/schema';
import { type ArchiveDamage, gunzipped, readChunks } from './unpack';

export interface ImportOrder {
  readonly captureId: string;
  readonly path: string;
  readonly name: string;
  readonly sha256: string;
  readonly fileBytes: number;
  readonly now: number;
  /** Where the capture begins in the unpacked file, where others stand before it. */
  readonly fromByte?: number;
  /** What was wrong with the zip that the file came in. */
  readonly damage?: ArchiveDamage;
}

/** A capture that was read, and where another one begins behind it in the same file. */
export interface Imported {
  readonly result: ImportResult;
  readonly nextAtByte: number | undefined;
}

/** Told after each chunk. */
export interface ReadingProgress {
  readonly readBytes: number;
  readonly totalBytes: number;
  readonly exchanges: number;
}

export class ImportCancelled extends Error {
  constructor() {
    super('The import was cancelled; nothing was kept.');
    this.name = 'ImportCancelled';
  }
}

/**
 * Reads a file into the database in one transaction: the capture is there whole or not at all. Never holds more than
 * one entry. Throws HarError for a file that is no capture, ImportCancelled when `goOn` says no.
 * @param goOn told of the progress after each chunk; false stops the import
 */
export function importFile(
  connection: Connection,
  order: ImportOrder,
  goOn: (progress: ReadingProgress) => boolean,
): Imported {
  const run = connection.sqlite.transaction((): Imported => {
    const same = findByHash(connection, order.sha256);
    if (same !== undefined) return { result: { type: 'duplicate', ...same }, nextAtByte: undefined };
    // One that was deleted and can still be brought back is: else undoing would put the same file on the shelf twice.
    const deleted = restoreByHash(connection, order.sha256, order.now);
    if (deleted !== undefined) {
      return { result: { type: 'imported', ...deleted }, nextAtByte: undefined };
    }
    const { captureId: id, name, sha256, fileBytes, now } = order;
    connection.db
      .insert(captures)
      .values({ id, name, sha256, fileBytes, importedAt: now, outline: '{}', completeness: '{}' })
      .run();
    const facts: ExchangeFacts[] = [];
    const end = readInto(connection, order, facts, goOn);
    const { capture } = end;
    const { rows, overview } = analyse(facts, capture.pages, capture.completeness);
    // They are as large as the rows, and no longer needed while these are written.
    facts.length = 0;
    writeAnalysis(connection, id, rows, overview);
    connection.db
      .update(captures)
      .set({
        outline: JSON.stringify(end.outline),
        completeness: JSON.stringify(capture.completeness),
        recordedAt: overview.recordedAt ?? null,
        utcOffsetMinutes: capture.utcOffsetMinutes ?? null,
        recorder: programName(capture.recorder),
        browser: programName(capture.browser),
      })
      .where(eq(captures.id, id))
      .run();
    const { behind } = capture.completeness;
    return {
      result: { type: 'imported', id, name, exchanges: rows.length },
      nextAtByte: behind?.what === 'capture' ? behind.atByte : undefined,
    };
  });
  return run.immediate();
}

const programName = (program: Capture['recorder']): string | null =>
  program === undefined ? null : [program.name, program.version].filter((part) => part !== undefined).join(' ');

function readInto(
  connection: Connection,
  order: ImportOrder,
  facts: ExchangeFacts[],
  goOn: (progress: ReadingProgress) => boolean,
): HarEnd {
  const { captureId } = order;
  const writeEntry = entryWriter(connection, captureId);
  const report = (readBytes: number): void => {
    if (!goOn({ readBytes, totalBytes: order.fileBytes, exchanges: facts.length })) throw new ImportCancelled();
  };
  const pool = new FactsPool();
  const reader = new HarReader(
    {
      onPage: (page, place) =>
        connection.db
          .insert(pages)
          .values({ captureId, place, raw: JSON.stringify(page) })
          .run(),
      onEntry: ({ value, place }) => {
        if (isObject(value)) facts.push(pool.share(takeFacts(normaliseEntry(value, place))));
        writeEntry(value, place);
      },
    },
    order.fromByte,
  );
  let damage = order.damage;
  const onDamage = (inGzip: ArchiveDamage): void => {
    damage = inGzip;
  };
  for (const chunk of gunzipped(counted(readChunks(order.path), report), onDamage)) reader.push(chunk);
  return reader.end(damage);
}

/** Passes chunks on and tells after each how many bytes of the file were read. */
function* counted(chunks: Iterable<Uint8Array>, tell: (readBytes: number) => void): Generator<Uint8Array> {
  let readBytes = 0;
  for (const chunk of chunks) {
    yield chunk;
    readBytes += chunk.length;
    tell(readBytes);
  }
}
