import type { CaptureOverview, ExchangeRow } from '#core/analysis';
import type { FoundInCapture } from '#core/diagnose';
import type { HarOutline, Json } from '#core/har';
import { Comments } from '#core/marks';
import { diagnoseFile, type Input, readEntries, readToEnd } from '../capture-file';
import { findCapture, getOutline, readRows } from '../db/captures';
import type { Connection } from '../db/connection';
import { readEntries as readStored } from '../db/entries';
import { findFindings } from '../db/findings';
import { readMarks } from '../db/marks';

export interface RecordedEntry {
  readonly value: Json;
  readonly place: number;
}

/** What an analysis says of a capture. */
export interface Analysis {
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly found: FoundInCapture;
}

/** A capture as it was recorded: its entries one at a time, as often as is needed. */
export interface Recorded {
  readonly outline: HarOutline;
  readonly pages: readonly Json[];
  readonly entries: () => Iterable<RecordedEntry>;
  /** Made when it is first asked for. */
  readonly analyse: () => Analysis;
}

/** @throws UnreadableFile */
export function recordedFile(input: Input): Recorded {
  const { outline, rawPages } = readToEnd(input);
  return {
    outline,
    pages: rawPages,
    entries: () => readEntries(input),
    analyse: once(() => diagnoseFile(input)),
  };
}

/** A capture that is stored and has been diagnosed, with what was noted in it as comments. */
export function recordedInStore(connection: Connection, captureId: string): Recorded {
  const { outline, pages } = getOutline(connection, captureId);
  const comments = new Comments(readMarks(connection, captureId));
  function* entries(): Generator<RecordedEntry> {
    for (const { value, place } of readStored(connection, captureId))
      yield { value: comments.entry(value, place), place };
  }
  return {
    outline,
    pages: pages.map((page) => comments.page(page)),
    entries,
    analyse: once(() => {
      const overview = findCapture(connection, captureId)?.overview;
      const found = findFindings(connection, captureId);
      if (overview === undefined || found === undefined) throw new Error('The capture has not been diagnosed.');
      return { rows: readRows(connection, captureId), overview, found };
    }),
  };
}

function once<T>(make: () => T): () => T {
  let made: { readonly value: T } | undefined;
  return () => {
    made ??= { value: make() };
    return made.value;
  };
}
