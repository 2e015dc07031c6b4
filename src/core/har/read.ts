import type { Capture, Completeness, ProgramName } from '../model';
import { Utf8Stream } from './encoding';
import { readInstant } from './instant';
import { normalisePage } from './page';
import { asFilledText, asText, isObject, type Json, member, typeWord } from './shape';
import type { HarSpan, RootShape, Scope } from './span';
import { HarSplitter } from './split';
import { harError } from './wording';

/** What encloses the lists of a capture, kept so that saving it gives back what was read. */
export interface HarOutline {
  readonly rootShape: RootShape;
  /** Members of the outermost object, in order; a list or `log` stands as its name alone. */
  readonly root: readonly OutlineMember[];
  /** Members of `log`, in order. */
  readonly log: readonly OutlineMember[];
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

/**
 * Reads a capture from chunks of bytes and hands over each entry as soon as it is complete, so that memory stays
 * bounded whatever the file's length. Throws a HarError when nothing of it can be kept.
 */
export class HarReader {
  readonly #splitter: HarSplitter;
  readonly #bytes = new Utf8Stream((chunk) => this.#splitter.push(chunk));
  readonly #decoder = new TextDecoder('utf-8', { ignoreBOM: true });
  readonly #handlers: HarHandlers;
  readonly #root: OutlineMember[] = [];
  readonly #log: OutlineMember[] = [];
  readonly #pages: Json[] = [];
  #entryCount = 0;
  #oddEntries = 0;
  #utcOffsetMinutes: number | undefined;

  constructor(handlers: HarHandlers) {
    this.#handlers = handlers;
    this.#splitter = new HarSplitter((span) => this.#take(span));
  }

  push(chunk: Uint8Array): void {
    this.#bytes.push(chunk);
  }

  /** Ends the reading. A file that stops early keeps its complete entries and says where it stops. */
  end(): HarEnd {
    this.#bytes.end();
    const { whole, atByte, rootShape, gaps } = this.#splitter.end();
    if (atByte === 0) throw harError({ code: 'empty-file' });
    if (rootShape === undefined) {
      throw harError({ code: 'not-json', atByte, expected: 'an object', found: 'the end of the file' });
    }
    const hasEntries = rootShape === 'array' || [...this.#log, ...this.#root].some((part) => part.type === 'entries');
    if (!whole && this.#entryCount === 0) throw harError({ code: 'cut-too-early', atByte });
    if (!hasEntries) this.#refuse();
    if (rootShape === 'array' && this.#entryCount === this.#oddEntries && this.#entryCount > 0) {
      throw harError({
        code: 'not-har',
        where: 'its outermost list',
        expected: 'a list of exchanges',
        found: 'another',
      });
    }
    const capture: Capture = {
      recorder: readProgram(this.#field('creator')),
      browser: readProgram(this.#field('browser')),
      utcOffsetMinutes: this.#utcOffsetMinutes,
      pages: this.#pages.map(normalisePage),
      completeness: this.#completeness(whole, atByte, gaps),
    };
    return { capture, outline: { rootShape, root: this.#root, log: this.#log }, rawPages: this.#pages };
  }

  #completeness(whole: boolean, atByte: number, gaps: number): Completeness {
    const damagedEntries = gaps + this.#oddEntries;
    if (!whole) return { type: 'cut', atByte, damagedEntries };
    return damagedEntries > 0 ? { type: 'damaged', damagedEntries } : { type: 'whole' };
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
      case 'entry':
        return this.#takeEntry(span.bytes, span.afterGap);
      default:
        return span satisfies never;
    }
  }

  /** A field or page that is not JSON is an error at the beginning of a file; after entries it is more damage. */
  #takePart(span: Extract<HarSpan, { type: 'field' | 'page' }>): boolean {
    const text = this.#decoder.decode(span.bytes);
    let value: Json;
    try {
      value = JSON.parse(text) as Json;
    } catch {
      if (this.#entryCount > 0) return false;
      const found = `"${text.slice(0, 40)}"`;
      throw harError({ code: 'not-json', atByte: span.atByte, expected: 'a JSON value', found });
    }
    if (span.type === 'field') {
      this.#members(span.scope).push({ type: 'value', key: span.key, value });
      return true;
    }
    this.#noteOffset(value);
    this.#handlers.onPage?.(value, this.#pages.length);
    this.#pages.push(value);
    return true;
  }

  /** An entry that is not JSON cannot be kept; one that is no object keeps its place but shows nothing. */
  #takeEntry(bytes: Uint8Array, afterGap: boolean): boolean {
    let value: Json;
    try {
      value = JSON.parse(this.#decoder.decode(bytes)) as Json;
    } catch {
      return false;
    }
    const looksLikeEntry =
      isObject(value) && (isObject(member(value, 'request')) || isObject(member(value, 'response')));
    if (afterGap && !looksLikeEntry) return false;
    if (!isObject(value)) this.#oddEntries++;
    this.#noteOffset(value);
    this.#handlers.onEntry({ value, place: this.#entryCount });
    this.#entryCount++;
    return true;
  }

  #noteOffset(value: Json): void {
    if (this.#utcOffsetMinutes !== undefined) return;
    this.#utcOffsetMinutes = readInstant(asText(member(value, 'startedDateTime')))?.utcOffsetMinutes;
  }
}

function readProgram(raw: Json | undefined): ProgramName | undefined {
  const name = asFilledText(member(raw, 'name'));
  return name === undefined ? undefined : { name, version: asFilledText(member(raw, 'version')) };
}
