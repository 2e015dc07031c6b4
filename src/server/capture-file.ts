import {
  analyse,
  type CaptureOverview,
  type ExchangeFacts,
  type ExchangeRow,
  onPages,
  takeFacts,
} from '#core/analysis';
import type { Diagnosis } from '#core/diagnose';
import { type HarEnd, HarError, HarReader, isObject, type Json, type JsonObject, normaliseEntry } from '#core/har';
import type { KnownBodies } from '#core/links';
import type { Exchange } from '#core/model';
import { beginReading } from './diagnose';
import { type ArchiveDamage, gunzipped, readChunks } from './ingest/unpack';
import { whyNot } from './why-not';

/** A file that cannot be read as a capture, or not at all: told in one line. */
export class UnreadableFile extends Error {}

/** A capture to read, as often as is needed. */
export interface Input {
  readonly path: string;
  /** What it is called in errors: the file that the user named, or standard input. */
  readonly shown: string;
  /** What was wrong with the zip that it came in. */
  readonly damage: ArchiveDamage | undefined;
  /** What is done to each entry before anything reads it. */
  readonly change?: (entry: Json) => Json;
}

/** Runs what may find the file unreadable; that is to be told in one line. */
function told<T>(shown: string, run: () => T): T {
  try {
    return run();
  } catch (error) {
    throw readable(shown, error);
  }
}

export const readable = (shown: string, error: unknown): unknown =>
  error instanceof HarError ? new UnreadableFile(`${shown}: ${error.message}`) : error;

/** The bytes of a file, a chunk at a time. @throws UnreadableFile */
export function* fileChunks(path: string, shown: string): Generator<Uint8Array> {
  try {
    yield* readChunks(path);
  } catch (error) {
    const { code, syscall } = error as NodeJS.ErrnoException;
    if (code === undefined || syscall === undefined) throw error;
    const why = whyNot(error);
    throw new UnreadableFile(`${shown} cannot be ${syscall === 'open' ? 'opened' : 'read'}: ${why}.`);
  }
}

/** The entries of a file, one at a time; the generator returns what the reading ended with. */
export function* readEntries({
  path,
  shown,
  damage,
  change,
}: Input): Generator<{ readonly value: Json; readonly place: number }, HarEnd> {
  const ready: { value: Json; place: number }[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => ready.push({ value: change === undefined ? value : change(value), place }),
  });
  let found = damage;
  const chunks = gunzipped(fileChunks(path, shown), (inGzip) => {
    found = inGzip;
  });
  for (;;) {
    const next = told(shown, () => chunks.next());
    if (next.done === true) break;
    told(shown, () => reader.push(next.value));
    yield* ready.splice(0);
  }
  const end = told(shown, () => reader.end(found));
  yield* ready.splice(0);
  return end;
}

/** What encloses the entries of a file. */
export function readToEnd(input: Input): HarEnd {
  const entries = readEntries(input);
  for (;;) {
    const next = entries.next();
    if (next.done === true) return next.value;
  }
}

export interface AnalysedFile {
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly end: HarEnd;
}

/** Reads and analyses a file; its bodies are let go of as it is read. */
export function analyseFile(input: Input): AnalysedFile {
  const { facts, end } = readFacts(input);
  return { ...analyse(facts, end.capture.pages, end.capture.completeness), end };
}

function readFacts(input: Input): { readonly facts: readonly ExchangeFacts[]; readonly end: HarEnd } {
  const facts: ExchangeFacts[] = [];
  const entries = readEntries(input);
  for (;;) {
    const next = entries.next();
    if (next.done === true) return { facts, end: next.value };
    const { value, place } = next.value;
    if (isObject(value)) facts.push(takeFacts(normaliseEntry(value, place)));
  }
}

/**
 * Reads a file with its bodies too: who names whom, and what the rules find.
 * @param onExchange is given each exchange while it is at hand
 * @param knownBodies what bodies name that were read before
 */
export function diagnoseFile(
  input: Input,
  onExchange: (exchange: Exchange) => void = () => undefined,
  knownBodies?: KnownBodies,
): Diagnosis & { readonly end: HarEnd } {
  const { facts, end } = readFacts(input);
  const { pages, completeness } = end.capture;
  const diagnoser = beginReading(onPages(facts, pages), knownBodies);
  let at = 0;
  for (const exchange of readExchanges(input)) {
    diagnoser.add(exchange, facts[at++]);
    onExchange(exchange);
  }
  return { ...diagnoser.end(pages, completeness), end };
}

/** Every exchange of a file, one at a time. */
export function* readExchanges(input: Input): Generator<Exchange> {
  for (const { value, place } of readEntries(input))
    if (isObject(value)) yield normaliseEntry(value as JsonObject, place);
}
