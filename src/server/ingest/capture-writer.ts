import { eq } from 'drizzle-orm';
import { ARRIVED, ARRIVING, findByHash, restoreByHash, writeAnalysis } from '../db/captures';
import type { Connection } from '../db/connection';
import { entryWriter, type PreparedEntry } from '../db/entries';
import { captures, pages } from '../db/schema';
import type { Imported, ImportOrder } from './import-order';
import type { ReadCapture } from './read-capture';

/**
 * The capture that is on the shelf, or was, from the very same bytes: it is not read again. One that was deleted and can
 * still be brought back is: else undoing would put the same file on the shelf twice.
 */
export function importKnown(connection: Connection, order: ImportOrder): Imported | undefined {
  const same = findByHash(connection, order.sha256);
  if (same !== undefined) return { result: { type: 'duplicate', ...same }, nextAtByte: undefined };
  const deleted = restoreByHash(connection, order.sha256, order.now);
  return deleted === undefined ? undefined : { result: { type: 'imported', ...deleted }, nextAtByte: undefined };
}

/**
 * Writes a capture while it is read, in one transaction or several that its caller begins: nobody sees anything of it before
 * its end.
 */
export class CaptureWriter {
  readonly #connection: Connection;
  readonly #order: ImportOrder;
  readonly writeEntry: (entry: PreparedEntry) => void;

  constructor(connection: Connection, order: ImportOrder) {
    this.#connection = connection;
    this.#order = order;
    const { captureId: id, name, sha256, fileBytes, now } = order;
    connection.db
      .insert(captures)
      .values({ id, name, sha256, fileBytes, importedAt: now, outline: '{}', completeness: '{}', ...ARRIVING })
      .run();
    this.writeEntry = entryWriter(connection, id);
  }

  writePage(raw: string, place: number): void {
    this.#connection.db.insert(pages).values({ captureId: this.#order.captureId, place, raw }).run();
  }

  /** Writes what is known of it at its end. */
  end(read: ReadCapture): Imported {
    const { captureId: id, name } = this.#order;
    const { outline, completeness, utcOffsetMinutes, recorder, browser, overview } = read;
    writeAnalysis(this.#connection, id, read.blocks, overview);
    this.#connection.db
      .update(captures)
      .set({ outline, completeness, recordedAt: overview.recordedAt, utcOffsetMinutes, recorder, browser, ...ARRIVED })
      .where(eq(captures.id, id))
      .run();
    return { result: { type: 'imported', id, name, exchanges: read.exchanges }, nextAtByte: read.nextAtByte };
  }
}
