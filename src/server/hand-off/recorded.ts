import type { HarOutline, Json } from '#core/har';
import { Comments } from '#core/marks';
import { diagnoseFile, type Input, readEntries, readToEnd } from '../capture-file';
import { findCapture, getOutline, readRows } from '../db/captures';
import type { Connection } from '../db/connection';
import { readEntries as readStored } from '../db/entries';
import { findFindings } from '../db/findings';
import { readMarks } from '../db/marks';
import type { Analyst } from './analyst';
import type { Analysis } from './analyst-protocol';

export interface RecordedEntry {
  readonly value: Json;
  readonly place: number;
}

/** A capture as it was recorded: its entries one at a time, as often as is needed. */
export interface Recorded {
  readonly outline: HarOutline;
  readonly pages: readonly Json[];
  readonly entries: () => Iterable<RecordedEntry>;
  /** Made when it is first asked for. */
  readonly analyse: () => Analysis;
  /** The same, made beside what goes on meanwhile where it is not there yet. */
  readonly analyseApart: (analyst: Analyst) => Promise<Analysis>;
}

/** @throws UnreadableFile */
export function recordedFile(input: Input): Recorded {
  const { outline, rawPages } = readToEnd(input);
  let analysis: Analysis | undefined;
  const analyse = (): Analysis => {
    analysis ??= diagnoseFile(input);
    return analysis;
  };
  return {
    outline,
    pages: rawPages,
    entries: () => readEntries(input),
    analyse,
    analyseApart: (analyst) => (analysis === undefined ? analyst.analyse(input) : Promise.resolve(analysis)),
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
  let analysis: Analysis | undefined;
  const analyse = (): Analysis => {
    if (analysis !== undefined) return analysis;
    const overview = findCapture(connection, captureId)?.overview;
    const found = findFindings(connection, captureId);
    if (overview === undefined || found === undefined) throw new Error('The capture has not been diagnosed.');
    analysis = { rows: readRows(connection, captureId), overview, found };
    return analysis;
  };
  return {
    outline,
    pages: pages.map((page) => comments.page(page)),
    entries,
    analyse,
    analyseApart: async () => analyse(),
  };
}
