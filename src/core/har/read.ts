import type { Capture, Completeness, ProgramName, ReadingOddities } from '../model';
import { afterOf, closesWrapper, type Dressing, findCapture, HEAD_BYTES, readDressing } from './dressing';
import { joinTwo, Utf8Stream } from './encoding';
import { readInstant } from './instant';
import { mendJson } from './mend';
import { normalisePage } from './page';
import { asFilledText, isObject, type Json, member, typeWord } from './shape';
import type { HarSpan, RootShape, Scope, SplitTail } from './span';
import { HarSplitter } from './split';
import { harError } from './wording';
import { XmlReader } from './xml';

/** What encloses the lists of a capture, kept so that saving it gives back what was read. */
export interface HarOutline {
  readonly rootShape: RootShape;
  /** Members of the outermost object, in order; a list or `log` stands as its name alone. */
  readonly root: readonly OutlineMember[];
  /** Members of `log`, in order. */
  readonly log: readonly OutlineMember[];
  /** JSON that stood around the capture: a list of its own, or an object with it as a member. */
  readonly wrapper?: { readonly before: string; readonly after: string };
}

export type OutlineMember =
  | { readonly type: 'value'; readonly key: string; readonly value: Json }
  | { readonly type: 'pages' }
  | { readonly type: 'entries' }
  | { readonly type: 'log' };

export interface RawEntry {
  /** The parsed entry; any JSON value, as hostile files hold more than objects. */
  readonly value: Json;
  readonly place: number;
}

export interface HarHandlers {
  readonly onEntry: (entry: RawEntry) => void;
  readonly onPage?: (page: Json, place: number) => void;
}

/** What is known once a capture was read to its end. */
export interface HarEnd {
  readonly capture: Capture;
  readonly outline: HarOutline;
  /** The items of `log.pages` as they were read. */
  readonly rawPages: readonly Json[];
}

/** What feeds on the bytes once it is known how the capture stands in its file. */
type Feed =
  | { readonly type: 'json'; readonly splitter: HarSplitter; readonly dressing: Dressing }
  | { readonly type: 'xml'; readonly reader: XmlReader };

/**
 * Reads a capture from chunks of bytes and hands over each entry as soon as it is complete, so that memory stays
 * bounded whatever the file's length. Throws a HarError when nothing of it can be kept.
 */
export class HarReader {
  readonly #bytes = new Utf8Stream((chunk) => this.#feed(chunk));
  readonly #decoder = new TextDecoder('utf-8', { ignoreBOM: true });
  readonly #handlers: HarHandlers;
  readonly #root: OutlineMember[] = [];
  readonly #log: OutlineMember[] = [];
  readonly #pages: Json[] = [];
  readonly #fromByte: number;
  #toSkip: number;
  #offset = 0;
  #head: Uint8Array = new Uint8Array();
  #consumer: Feed | undefined;
  #entryCount = 0;
  #likelyEntries = 0;
  #oddEntries = 0;
  #mendedEntries = 0;
  readonly #mendedParts: string[] = [];
  readonly #lostParts: string[] = [];
  #archive: Completeness['archive'];
  #utcOffsetMinutes: number | undefined;

  /** @param fromByte where the capture begins in the file, where several stand in a row */
  constructor(handlers: HarHandlers, fromByte = 0) {
    this.#handlers = handlers;
    this.#fromByte = fromByte;
    this.#toSkip = fromByte;
  }

  push(chunk: Uint8Array): void {
    this.#bytes.push(chunk);
  }

  /**
   * Ends the reading. A file that stops early keeps its complete entries and says where it stops.
   * @param archive what was wrong with the archive that the bytes came in
   */
  end(archive?: Completeness['archive']): HarEnd {
    this.#archive = archive;
    this.#bytes.end();
    if (this.#consumer === undefined && this.#head.length === 0) throw harError({ code: 'empty-file' });
    const consumer = this.#consumer ?? this.#begin();
    return consumer.type === 'xml'
      ? this.#endXml(consumer.reader)
      : this.#endJson(consumer.splitter, consumer.dressing);
  }

  /** Holds the beginning back until there is enough of it to tell what it is. */
  #feed(chunk: Uint8Array): void {
    const skipped = Math.min(this.#toSkip, chunk.length);
    this.#toSkip -= skipped;
    this.#offset += skipped;
    const own = chunk.subarray(skipped);
    if (own.length === 0) return;
    if (this.#consumer !== undefined) {
      this.#consume(this.#consumer, own);
      return;
    }
    this.#head = joinTwo(this.#head, new Uint8Array(own));
    if (this.#head.length >= HEAD_BYTES) this.#begin();
  }

  #consume(consumer: Feed, chunk: Uint8Array): void {
    if (consumer.type === 'xml') consumer.reader.push(chunk);
    else consumer.splitter.push(chunk);
  }

  #begin(): Feed {
    const dressing = readDressing(this.#head);
    if (dressing.type === 'refused') throw harError({ code: 'another-kind', seems: dressing.seems });
    const rest = this.#head.subarray(dressing.skipBytes);
    const startsAt = this.#offset + dressing.skipBytes;
    this.#head = new Uint8Array();
    this.#offset = startsAt;
    this.#consumer =
      dressing.type === 'xml'
        ? { type: 'xml', reader: this.#xmlReader() }
        : {
            type: 'json',
            dressing,
            splitter: new HarSplitter((span) => this.#take(span), startsAt, dressing.type === 'rows'),
          };
    if (rest.length > 0) this.#consume(this.#consumer, rest);
    return this.#consumer;
  }

  #endJson(splitter: HarSplitter, dressing: Dressing): HarEnd {
    const { whole, atByte, rootShape, gaps, tail } = splitter.end();
    if (rootShape === undefined) {
      throw harError({ code: 'not-json', atByte, expected: 'an object', found: 'the end of the file' });
    }
    const hasEntries = rootShape !== 'object' || [...this.#log, ...this.#root].some((part) => part.type === 'entries');
    if (!whole && this.#entryCount === 0) throw harError({ code: 'cut-too-early', atByte });
    if (!hasEntries) this.#refuse();
    // Any list may stand at the outermost place: only what is like an exchange makes a capture of it.
    if (rootShape !== 'object' && this.#likelyEntries === 0 && this.#entryCount > 0) {
      throw harError({
        code: 'not-har',
        where: 'its outermost list',
        expected: 'a list of exchanges',
        found: 'a list of something else',
      });
    }
    const isWrapped = dressing.type === 'wrapped';
    const wasListed = this.#fromByte > 0;
    const next = behind(tail);
    const mayClose = next?.what === 'other' && tail?.isAll === true && (isWrapped || wasListed);
    const isClosed = mayClose && closesWrapper(tail.bytes, isWrapped ? dressing.before : '');
    const after = isClosed && isWrapped ? afterOf(dressing.before, tail.bytes) : undefined;
    const wrapper = after === undefined || !isWrapped ? undefined : { before: dressing.before, after };
    return this.#end(rootShape, whole, atByte, gaps, isClosed ? undefined : next, wrapper);
  }

  #endXml(reader: XmlReader): HarEnd {
    const whole = reader.end();
    const atByte = this.#offset;
    if (!whole && this.#entryCount === 0) throw harError({ code: 'cut-too-early', atByte });
    if (!this.#log.some((part) => part.type === 'entries')) this.#refuse();
    return this.#end('object', whole, atByte, 0, undefined, undefined);
  }

  #end(
    rootShape: RootShape,
    whole: boolean,
    atByte: number,
    gaps: number,
    behind: Completeness['behind'],
    wrapper: HarOutline['wrapper'],
  ): HarEnd {
    const damagedEntries = gaps + this.#oddEntries;
    const oddities: ReadingOddities = {
      ...(this.#mendedEntries === 0 ? {} : { mendedEntries: this.#mendedEntries }),
      ...(this.#mendedParts.length === 0 ? {} : { mendedParts: this.#mendedParts }),
      ...(this.#lostParts.length === 0 ? {} : { lostParts: this.#lostParts }),
      ...(behind === undefined ? {} : { behind }),
      ...(this.#archive === undefined ? {} : { archive: this.#archive }),
    };
    const reached = !whole
      ? ({ type: 'cut', atByte, damagedEntries } as const)
      : damagedEntries > 0
        ? ({ type: 'damaged', damagedEntries } as const)
        : ({ type: 'whole' } as const);
    const capture: Capture = {
      recorder: readProgram(this.#field('creator')),
      browser: readProgram(this.#field('browser')),
      utcOffsetMinutes: this.#utcOffsetMinutes,
      pages: this.#pages.map(normalisePage),
      completeness: { ...reached, ...oddities },
    };
    const outline = { rootShape, root: this.#root, log: this.#log, ...(wrapper === undefined ? {} : { wrapper }) };
    return { capture, outline, rawPages: this.#pages };
  }

  #xmlReader(): XmlReader {
    this.#root.push({ type: 'log' });
    return new XmlReader({
      onEntry: (entry) => this.#addEntry(entry),
      onPage: (page) => this.#addPage(page),
      onField: (key, value) => this.#log.push({ type: 'value', key, value }),
      onList: (type) => this.#log.push({ type }),
    });
  }

  #refuse(): never {
    const log = this.#field('log', this.#root);
    const hasLog = this.#root.some((part) => part.type === 'log');
    if (hasLog) {
      throw harError({
        code: 'not-har',
        where: 'log.entries',
        expected: 'a list',
        found: typeWord(this.#field('entries')),
      });
    }
    throw harError({ code: 'not-har', where: 'log', expected: 'an object', found: typeWord(log) });
  }

  #field(key: string, members: readonly OutlineMember[] = [...this.#log, ...this.#root]): Json | undefined {
    for (const part of members) if (part.type === 'value' && part.key === key) return part.value;
    return undefined;
  }

  #members(scope: Scope): OutlineMember[] {
    return scope === 'root' ? this.#root : this.#log;
  }

  #take(span: HarSpan): boolean {
    switch (span.type) {
      case 'log':
        this.#root.push({ type: 'log' });
        return true;
      case 'list':
        this.#members(span.scope).push({ type: span.key });
        return true;
      case 'field':
      case 'page':
        return this.#takePart(span);
      case 'lost':
        this.#lostParts.push(span.where);
        return true;
      case 'entry':
        return this.#takeEntry(span.bytes, span.afterGap);
      default:
        return span satisfies never;
    }
  }

  /** A field or page that is not JSON and cannot be mended is left out, and named. */
  #takePart(span: Extract<HarSpan, { type: 'field' | 'page' }>): boolean {
    const text = this.#decoder.decode(span.bytes);
    const asIs = parsed(text);
    const value = asIs ?? parsed(mendJson(text));
    if (asIs === undefined) {
      const outer = span.type === 'page' || span.scope === 'log' ? 'log.' : '';
      const where = span.type === 'page' ? `pages[${this.#pages.length}]` : span.key;
      (value === undefined ? this.#lostParts : this.#mendedParts).push(outer + where);
    }
    if (value === undefined) return false;
    if (span.type === 'field') {
      this.#members(span.scope).push({ type: 'value', key: span.key, value });
      return true;
    }
    this.#addPage(value);
    return true;
  }

  #addPage(value: Json): void {
    this.#noteOffset(value);
    this.#handlers.onPage?.(value, this.#pages.length);
    this.#pages.push(value);
  }

  /** An entry that is not JSON and cannot be mended is not kept; one that is no object keeps its place but shows nothing. */
  #takeEntry(bytes: Uint8Array, afterGap: boolean): boolean {
    const text = this.#decoder.decode(bytes);
    let value = parsed(text);
    if (value === undefined) {
      value = parsed(mendJson(text));
      if (value === undefined || !isLikeEntry(value)) return false;
      this.#mendedEntries++;
    }
    if (afterGap && !isLikeEntry(value)) return false;
    this.#addEntry(value);
    return true;
  }

  #addEntry(value: Json): void {
    if (isLikeEntry(value)) this.#likelyEntries++;
    if (!isObject(value)) this.#oddEntries++;
    this.#noteOffset(value);
    this.#handlers.onEntry({ value, place: this.#entryCount });
    this.#entryCount++;
  }

  #noteOffset(value: Json): void {
    if (this.#utcOffsetMinutes !== undefined) return;
    this.#utcOffsetMinutes = readInstant(member(value, 'startedDateTime'))?.utcOffsetMinutes;
  }
}

const isLikeEntry = (value: Json): boolean => isObject(member(value, 'request')) || isObject(member(value, 'response'));

const behind = (tail: SplitTail | undefined): Completeness['behind'] => {
  if (tail === undefined) return undefined;
  const before = findCapture(tail.bytes);
  return before === undefined
    ? { atByte: tail.atByte, what: 'other' }
    : { atByte: tail.atByte + before, what: 'capture' };
};

function parsed(text: string): Json | undefined {
  try {
    return JSON.parse(text) as Json;
  } catch {
    return undefined;
  }
}

function readProgram(raw: Json | undefined): ProgramName | undefined {
  const name = asFilledText(member(raw, 'name'));
  return name === undefined ? undefined : { name, version: asFilledText(member(raw, 'version')) };
}
