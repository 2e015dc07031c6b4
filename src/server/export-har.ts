import { type Json, writeHar } from '#core/har';
import { Comments } from '#core/marks';
import { pagesOfPart } from '#core/report';
import { findCapture, getOutline, readRows } from './db/captures';
import type { Connection } from './db/connection';
import { findEntry, readEntries, type StoredEntry } from './db/entries';
import { readMarks } from './db/marks';

/**
 * A capture with just the exchanges at these places, or with all, as they were recorded and in the order of the file; what was
 * noted on them is their comment. Where
 * they are of one navigation among several, the page's times are that one's.
 */
export function exportHar(
  connection: Connection,
  captureId: string,
  places: readonly number[] | undefined,
): ReadableStream<Uint8Array> {
  const outline = getOutline(connection, captureId);
  const comments = new Comments(readMarks(connection, captureId));
  const pages = places === undefined ? outline.pages : pagesFor(connection, captureId, outline.pages, places);
  const pieces = writeHar(outline.outline, {
    pages: pages.map((page) => JSON.stringify(comments.page(page))),
    entries: entryTexts(
      places === undefined ? readEntries(connection, captureId) : entriesAt(connection, captureId, places),
      comments,
    ),
  });
  const encoder = new TextEncoder();
  return new ReadableStream({
    pull: (controller) => {
      let text = '';
      while (text.length < CHUNK_CHARS) {
        const next = pieces.next();
        if (next.done === true) {
          controller.enqueue(encoder.encode(text));
          controller.close();
          return;
        }
        text += next.value;
      }
      controller.enqueue(encoder.encode(text));
    },
  });
}

function pagesFor(
  connection: Connection,
  captureId: string,
  pages: readonly Json[],
  places: readonly number[],
): Json[] {
  const overview = findCapture(connection, captureId)?.overview;
  const chosen = new Set<number>(places);
  const used = readRows(connection, captureId).flatMap(({ index, pageId }) => (chosen.has(index) ? [pageId] : []));
  return pagesOfPart(pages, overview?.pages ?? [], new Set(used));
}

const CHUNK_CHARS = 100_000;

function* entryTexts(entries: Iterable<StoredEntry>, comments: Comments): Generator<string> {
  for (const { value, place } of entries) yield JSON.stringify(comments.entry(value, place));
}

function* entriesAt(connection: Connection, captureId: string, places: readonly number[]): Generator<StoredEntry> {
  for (const place of [...new Set(places)].sort((a, b) => a - b)) {
    const entry = findEntry(connection, captureId, place);
    if (entry !== undefined) yield entry;
  }
}
