import { analyse, type CaptureOverview, type ExchangeFacts, FactsPool, takeFacts } from '#core/analysis';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import type { Capture } from '#core/model';
import { type PackedBlock, packBlocks } from '#core/wire';
import { type PreparedEntry, prepareEntry } from '../db/entries';
import type { ImportOrder } from './import-order';
import { type ArchiveDamage, gunzipped, readChunks } from './unpack';

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

/** What a capture is kept as, handed over while it is read. */
export interface ReadHandlers {
  /** A page as JSON, as it was read. */
  readonly onPage: (raw: string, place: number) => void;
  readonly onEntry: (entry: PreparedEntry) => void;
  /** Told of the progress after each chunk; false stops the reading. */
  readonly goOn: (progress: ReadingProgress) => boolean;
}

/** What is known once a capture was read to its end. */
export interface ReadCapture {
  /** HarOutline and Completeness as JSON. */
  readonly outline: string;
  readonly completeness: string;
  readonly utcOffsetMinutes: number | undefined;
  readonly recorder: string | undefined;
  readonly browser: string | undefined;
  readonly overview: CaptureOverview;
  readonly blocks: readonly PackedBlock[];
  readonly exchanges: number;
  /** Where another capture begins behind it in the same file. */
  readonly nextAtByte: number | undefined;
}

/**
 * Reads a file to its end and analyses it without its bodies. Never holds more than one entry.
 * @throws HarError for a file that is no capture, ImportCancelled where the reading was stopped
 */
export function readCapture(order: ImportOrder, { onPage, onEntry, goOn }: ReadHandlers): ReadCapture {
  const facts: ExchangeFacts[] = [];
  const pool = new FactsPool();
  const reader = new HarReader(
    {
      onPage: (page, place) => onPage(JSON.stringify(page), place),
      onEntry: ({ value, place }) => {
        if (isObject(value)) facts.push(pool.share(takeFacts(normaliseEntry(value, place))));
        // The entry belongs to this reading alone.
        onEntry(prepareEntry(value, place));
      },
    },
    order.fromByte,
  );
  let { damage } = order;
  const onDamage = (inGzip: ArchiveDamage): void => {
    damage = inGzip;
  };
  let readBytes = 0;
  const counted = (chunk: Uint8Array): Uint8Array => {
    if (!goOn({ readBytes, totalBytes: order.fileBytes, exchanges: facts.length })) throw new ImportCancelled();
    readBytes += chunk.length;
    return chunk;
  };
  for (const chunk of gunzipped(mapped(readChunks(order.path), counted), onDamage)) reader.push(chunk);
  const { capture, outline } = reader.end(damage);
  const { rows, overview } = analyse(facts, capture.pages, capture.completeness);
  // They are as large as the rows, and no longer needed while these are packed.
  facts.length = 0;
  const { behind } = capture.completeness;
  return {
    outline: JSON.stringify(outline),
    completeness: JSON.stringify(capture.completeness),
    utcOffsetMinutes: capture.utcOffsetMinutes,
    recorder: programName(capture.recorder),
    browser: programName(capture.browser),
    overview,
    blocks: packBlocks(rows),
    exchanges: rows.length,
    nextAtByte: behind?.what === 'capture' ? behind.atByte : undefined,
  };
}

function* mapped<T>(items: Iterable<T>, each: (item: T) => T): Generator<T> {
  for (const item of items) yield each(item);
}

const programName = (program: Capture['recorder']): string | undefined =>
  program === undefined ? undefined : [program.name, program.version].filter((part) => part !== undefined).join(' ');
