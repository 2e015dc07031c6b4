import type { Connection } from '../db/connection';
import { CaptureWriter, importKnown } from './capture-writer';
import type { Imported, ImportOrder } from './import-order';
import { type ReadingProgress, readCapture } from './read-capture';

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
    const known = importKnown(connection, order);
    if (known !== undefined) return known;
    const writer = new CaptureWriter(connection, order);
    const read = readCapture(order, {
      onPage: (raw, place) => writer.writePage(raw, place),
      onEntry: writer.writeEntry,
      goOn,
    });
    return writer.end(read);
  });
  return run.immediate();
}
