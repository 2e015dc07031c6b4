import { Zip, ZipDeflate, ZipPassThrough } from 'fflate';
import { isObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import type { Connection } from '../db/connection';
import { findEntry } from '../db/entries';
import { bodyFiles } from './body-files';

/** What is small already becomes no smaller. */
const PACKED = /^(?:image\/(?!svg|bmp)|audio\/|video\/|font\/woff|application\/(?:zip|gzip|pdf))/;
const LEVEL = 6;

/** The bodies of the exchanges at these places as a zip with the site's own paths, read and packed one at a time as they are asked for. */
export function zipBodies(
  connection: Connection,
  captureId: string,
  places: readonly number[],
): ReadableStream<Uint8Array> {
  const zip = new Zip();
  const files = bodyFiles(exchangesAt(connection, captureId, places));
  return new ReadableStream({
    start(controller) {
      zip.ondata = (error, chunk, isLast) => {
        if (error !== null) controller.error(error);
        else if (chunk.length > 0) controller.enqueue(chunk);
        if (isLast) controller.close();
      };
    },
    pull() {
      for (;;) {
        const next = files.next();
        if (next.done === true) {
          zip.end();
          return;
        }
        const file = next.value;
        if (file === 'none' || file === 'empty' || !file.isNew) continue;
        const member = PACKED.test(file.mimeType ?? '')
          ? new ZipPassThrough(file.path)
          : new ZipDeflate(file.path, { level: LEVEL });
        zip.add(member);
        member.push(file.bytes, true);
        return;
      }
    },
  });
}

function* exchangesAt(connection: Connection, captureId: string, places: readonly number[]): Generator<Exchange> {
  for (const place of [...new Set(places)].sort((a, b) => a - b)) {
    const value = findEntry(connection, captureId, place)?.value;
    if (value !== undefined && isObject(value)) yield normaliseEntry(value, place);
  }
}
