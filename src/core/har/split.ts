import { beginsCapture, HEAD_BYTES as TAIL_BYTES } from './dressing';
import { joinTwo } from './encoding';
import { findEntryStart, findListStart, hasMatchingBrackets, isListKey, START_BYTES } from './entry-start';
import {
  CLOSE_BRACE,
  CLOSE_BRACKET,
  COLON,
  COMMA,
  type Expect,
  isSpace,
  OPEN_BRACE,
  OPEN_BRACKET,
  QUOTE,
  valueType,
} from './grammar';
import { byteProblem, keyProblem, rootProblem, valueProblem } from './not-json';
import type { HarError } from './problem';
import type { HarSpan, ListKey, RootShape, Scope, SpanListener, SplitEnd, SplitTail } from './span';
import { ValueCapture } from './value-capture';
import type { ValueType } from './value-scanner';
import { harError } from './wording';

type Context = 'start' | Scope | ListKey | 'end';

/** A member outside the lists that is larger than this shows that the file is no capture; it also bounds memory. */
const FIELD_LIMIT_BYTES = 64 * 1024 * 1024;

/** HAR nests some ten deep; what nests deeper than this was made to exhaust the stack of whoever walks it. */
const NESTING_LIMIT = 1000;
/** Bytes that may be read again in search of lost entries, and so often the file: hostile ones lose track at every comma. */
const RESCAN_FREE_BYTES = 64 * 1024 * 1024;
const RESCAN_TIMES = 8;

/**
 * Splits the bytes of an HTTP Archive into the spans of its log fields, pages and entries, without ever holding the
 * whole file: the first stage of reading. It follows the JSON grammar (RFC 8259) down to the lists and counts brackets
 * below; whether a span is valid JSON is for the next stage to say. A chunk is the caller's own again when push returns;
 * the bytes of a span are only to be read while it is heard.
 */
export class HarSplitter {
  readonly #onSpan: SpanListener;
  readonly #decoder = new TextDecoder('utf-8');
  #context: Context[] = ['start'];
  #expect: Expect = 'value';
  #key = '';
  #rootShape: RootShape | undefined;
  /** Bytes of the file before the current chunk. */
  #offset = 0;
  readonly #value = new ValueCapture();
  // After damage: bytes in which the next entry is looked for, and how often that was needed.
  #lost: Uint8Array | undefined;
  /** Where the list of entries stands; empty before it was seen. Damaged brackets may have led out of it. */
  #inEntries: readonly Context[] = [];
  #hasLog = false;
  /** A part before the entries that holds a list of them. */
  #swallower: { readonly bytes: Uint8Array; readonly where: string } | undefined;
  /** The member behind the entries in which track was lost, and how many entries there were by then. */
  #lostBehind: { readonly where: string; readonly entries: number } | undefined;
  #keyIsLost = false;
  #inGap = false;
  #gaps = 0;
  #rescannedBytes = 0;
  readonly #rescanFreeBytes: number;
  #gaveUp = false;
  #entryCount = 0;
  #problem: HarError | undefined;
  // Behind the end: what follows it, until that shows what it is, and how many entries there were by then.
  #behind: { readonly atByte: number; bytes: Uint8Array } | undefined;
  #tail: (SplitTail & { readonly entries: number }) | undefined;
  readonly #isRows: boolean;

  /**
   * @param startsAt the byte of the file that the first one pushed is
   * @param isRows entries stand one after the other without a list around them
   * @param rescanFreeBytes how much may be read again in search of lost entries before it is held against the file's length
   */
  constructor(onSpan: SpanListener, startsAt = 0, isRows = false, rescanFreeBytes = RESCAN_FREE_BYTES) {
    this.#onSpan = onSpan;
    this.#rescanFreeBytes = rescanFreeBytes;
    this.#offset = startsAt;
    this.#isRows = isRows;
    if (!isRows) return;
    this.#rootShape = 'rows';
    this.#context = ['start', 'entries'];
    this.#inEntries = ['start', 'entries'];
  }

  /** Reads the next bytes. Throws a HarError where they cannot belong to a capture and nothing of it was read yet. */
  push(chunk: Uint8Array): void {
    let rest: Uint8Array | undefined = chunk;
    while (rest !== undefined && !this.#gaveUp) {
      if (this.#behind !== undefined) rest = this.#gather(rest, this.#behind);
      else rest = this.#lost === undefined ? this.#scan(rest) : this.#search(rest, this.#lost);
    }
  }

  /**
   * Says how the file ended; `atByte` is its length, or where the reading gave up. An entry that never ended is searched
   * for entries that it swallowed. Throws the first problem where not a single entry could be read.
   */
  end(): SplitEnd {
    if (this.#behind !== undefined && this.#judgeTail(this.#behind) !== undefined) this.push(new Uint8Array());
    while (this.#value.type !== undefined && this.#context.at(-1) !== 'start' && !this.#gaveUp) {
      const pending = this.#value.pending;
      if (!this.#swallowed(pending)) break;
      if (this.#inEntries.length === 0) this.#loseParts(valueProblem(this.#value.atByte, pending));
      this.#lose(pending.subarray(1));
      this.push(new Uint8Array());
    }
    if (this.#inEntries.length === 0 && this.#swallower !== undefined && !this.#gaveUp) {
      const { bytes, where } = this.#swallower;
      this.#onSpan({ type: 'lost', where });
      this.#lose(bytes);
      this.push(new Uint8Array());
    }
    if (this.#problem !== undefined && this.#entryCount === 0) throw this.#problem;
    const isLostBehind = this.#lostBehind?.entries === this.#entryCount;
    if (this.#lostBehind !== undefined && isLostBehind) this.#onSpan({ type: 'lost', where: this.#lostBehind.where });
    const tail = this.#tail;
    // What was searched behind the end, without a single entry in it, was no part of the capture.
    const hasEnded = tail !== undefined && tail.entries === this.#entryCount;
    const rowsEnd = this.#isRows && this.#context.at(-1) === 'entries' && this.#lost === undefined;
    const whole =
      hasEnded || isLostBehind || ((this.#context.at(-1) === 'end' || rowsEnd) && this.#value.type === undefined);
    return {
      whole,
      atByte: this.#offset,
      rootShape: this.#rootShape,
      gaps: this.#gaps,
      tail: hasEnded ? tail : undefined,
    };
  }

  /** Gathers how what stands behind the end begins; returns what to go on with once that is known. */
  #gather(chunk: Uint8Array, behind: { readonly atByte: number; bytes: Uint8Array }): Uint8Array | undefined {
    behind.bytes = joinTwo(behind.bytes, new Uint8Array(chunk));
    this.#offset += chunk.length;
    return behind.bytes.length < TAIL_BYTES ? undefined : this.#judgeTail(behind);
  }

  /** Another capture ends the reading; else the brackets may be damaged, and more entries are looked for. */
  #judgeTail({ atByte, bytes }: { readonly atByte: number; readonly bytes: Uint8Array }): Uint8Array | undefined {
    this.#behind = undefined;
    this.#tail = {
      atByte,
      entries: this.#entryCount,
      bytes: bytes.subarray(0, TAIL_BYTES),
      isAll: bytes.length < TAIL_BYTES,
    };
    if (beginsCapture(bytes)) {
      this.#gaveUp = true;
      return undefined;
    }
    const wasInGap = this.#inGap;
    this.#lose(bytes);
    this.#inGap = wasInGap;
    return new Uint8Array();
  }

  /** Steps over the chunk; returns its rest where track was lost in it. */
  #scan(chunk: Uint8Array): Uint8Array | undefined {
    let at = 0;
    while (at < chunk.length && this.#lost === undefined && this.#behind === undefined && !this.#gaveUp) {
      at = this.#value.type === undefined ? this.#structure(chunk, at) : this.#capture(chunk, at, at);
    }
    this.#offset += at;
    return this.#lost === undefined && this.#behind === undefined ? undefined : chunk.subarray(at);
  }

  /** Whether a value that never ended, or is none, holds what follows it. */
  #swallowed = (bytes: Uint8Array): boolean =>
    this.#inEntries.length > 0 ? findEntryStart(bytes, 1) !== -1 : findListStart(bytes) !== -1;

  /** Notes that a part before the entries is lost, and why the file is unreadable should no entry be found. */
  #loseParts(problem: HarError): void {
    this.#problem ??= problem;
    this.#onSpan({ type: 'lost', where: this.#where() });
  }

  /** The member that is read, as "log.version"; what encloses it where a key is still expected. */
  #where(): string {
    const isInMember = this.#expect !== 'key' && this.#expect !== 'key or }';
    return [...(this.#context.includes('log') ? ['log'] : []), ...(isInMember ? [this.#key] : [])].join('.');
  }

  /** Loses track: from here on only the beginning of another entry is looked for, before any that of their list. */
  #lose(unread: Uint8Array): void {
    this.#lost = unread;
    this.#inGap = this.#inEntries.length > 0;
    this.#context = [...this.#inEntries];
    this.#value.end();
    this.#keyIsLost = false;
    this.#rescannedBytes += unread.length;
    if (this.#rescannedBytes > this.#rescanFreeBytes + RESCAN_TIMES * this.#offset) this.#gaveUp = true;
  }

  /** Looks for the next entry in what was lost and in what follows; returns what to go on reading from there. */
  #search(chunk: Uint8Array, lost: Uint8Array): Uint8Array | undefined {
    const bytes = joinTwo(lost, chunk);
    const lostAt = this.#offset - lost.length;
    const isListed = this.#inEntries.length > 0;
    const start = isListed ? findEntryStart(bytes, 0) : findListStart(bytes);
    if (start === -1) {
      this.#lost = new Uint8Array(bytes.subarray(-START_BYTES));
      this.#offset += chunk.length;
      if (!isListed && this.#problem !== undefined && this.#offset > FIELD_LIMIT_BYTES) throw this.#problem;
      return undefined;
    }
    this.#lost = undefined;
    this.#offset = lostAt + start;
    this.#expect = 'value';
    if (!isListed) this.#enterEntries();
    return bytes.subarray(start);
  }

  /** Goes into the list of entries from where track was lost before it. */
  #enterEntries(): void {
    this.#inEntries = ['start', 'root', 'log', 'entries'];
    this.#context = [...this.#inEntries];
    this.#expect = 'value or ]';
    if (!this.#hasLog) this.#onSpan({ type: 'log' });
    this.#onSpan({ type: 'list', scope: 'log', key: 'entries' });
  }

  /** Steps through the outer grammar from `at` to the start of the next value; returns where to go on. */
  #structure(chunk: Uint8Array, from: number): number {
    for (let at = from; at < chunk.length; at++) {
      const byte = chunk[at] as number;
      if (isSpace(byte)) continue;
      if (this.#expect === ':' && byte === COLON) this.#expect = 'value';
      else if (this.#expect === ', or end' && byte === COMMA) {
        this.#expect = this.#context.at(-1) === 'root' || this.#context.at(-1) === 'log' ? 'key' : 'value';
      } else if (this.#closes(byte)) this.#leave();
      else if (this.#expect === 'nothing') {
        this.#behind = { atByte: this.#offset + at, bytes: new Uint8Array() };
        return at;
      } else if ((this.#expect === 'key' || this.#expect === 'key or }') && byte === QUOTE) {
        return this.#begin('key', chunk, at);
      } else if (this.#expect === 'value' || this.#expect === 'value or ]' || this.#beginsRow(byte)) {
        if (this.#enter(byte)) continue;
        const type = valueType(byte);
        return type === undefined ? this.#fail(byte, at) : this.#begin(type, chunk, at);
      } else return this.#fail(byte, at);
    }
    return chunk.length;
  }

  /** Entries in a row need no comma between them. */
  #beginsRow = (byte: number): boolean => this.#isRows && this.#expect === ', or end' && byte === OPEN_BRACE;

  #closes(byte: number): boolean {
    const context = this.#context.at(-1);
    const inObject = context === 'root' || context === 'log';
    const inList = context === 'entries' || context === 'pages';
    if (inObject && byte === CLOSE_BRACE) return this.#expect === ', or end' || this.#expect === 'key or }';
    return inList && byte === CLOSE_BRACKET && (this.#expect === ', or end' || this.#expect === 'value or ]');
  }

  #leave(): void {
    this.#context.pop();
    const outermost = this.#context.at(-1) === 'start';
    if (outermost) this.#context.push('end');
    this.#expect = outermost ? 'nothing' : ', or end';
  }

  /** Goes into a part that is split further: the root, `log`, `pages`, `entries`. False for any other value. */
  #enter(byte: number): boolean {
    const context = this.#context.at(-1);
    if (context === 'start') {
      if (byte !== OPEN_BRACE && byte !== OPEN_BRACKET) return false;
      this.#rootShape = byte === OPEN_BRACE ? 'object' : 'array';
      this.#context.push(byte === OPEN_BRACE ? 'root' : 'entries');
      if (byte === OPEN_BRACKET) this.#inEntries = [...this.#context];
      this.#expect = byte === OPEN_BRACE ? 'key or }' : 'value or ]';
      return true;
    }
    if (context === 'root' && this.#key === 'log' && byte === OPEN_BRACE) {
      this.#context.push('log');
      this.#hasLog = true;
      this.#expect = 'key or }';
      this.#onSpan({ type: 'log' });
      return true;
    }
    const isList = this.#key === 'entries' || this.#key === 'pages';
    if ((context === 'root' || context === 'log') && isList && byte === OPEN_BRACKET) {
      const key = this.#key === 'entries' ? 'entries' : 'pages';
      this.#context.push(key);
      if (key === 'entries') this.#inEntries = [...this.#context];
      this.#expect = 'value or ]';
      this.#onSpan({ type: 'list', scope: context, key });
      return true;
    }
    return false;
  }

  #begin(type: ValueType, chunk: Uint8Array, at: number): number {
    this.#value.begin(type, this.#offset + at);
    return this.#capture(chunk, at, at + (type === 'scalar' ? 0 : 1));
  }

  /** Scans to the end of the captured value, or keeps what this chunk has of it. */
  #capture(chunk: Uint8Array, pieceFrom: number, from: number): number {
    const taken = this.#value.take(chunk, pieceFrom, from);
    if (taken === undefined) {
      this.#boundField();
      return chunk.length;
    }
    this.#deliver(taken.bytes);
    return taken.end;
  }

  #boundField(): void {
    const context = this.#context.at(-1);
    if (context === 'entries' || context === 'pages' || this.#value.byteLength <= FIELD_LIMIT_BYTES) return;
    const where = this.#value.type === 'key' ? 'a key' : JSON.stringify(this.#key);
    throw harError({ code: 'not-har', where, expected: 'under 64 MB', found: 'larger' });
  }

  #deliver(bytes: Uint8Array): void {
    const context = this.#context.at(-1);
    const atByte = this.#value.atByte;
    const wasKey = this.#value.type === 'key';
    this.#value.end();
    if (wasKey) {
      const key = this.#readKey(bytes);
      this.#keyIsLost = key === undefined;
      this.#key = key ?? '';
      this.#expect = ':';
      return;
    }
    this.#expect = ', or end';
    if (this.#keyIsLost) {
      this.#keyIsLost = false;
      if (this.#swallowed(bytes)) this.#lose(bytes.subarray(1));
      return;
    }
    if (context === 'entries') this.#deliverEntry(bytes, atByte);
    else if (context === 'pages' && isListKey(bytes)) {
      // The list of pages was never closed: what follows is not a page.
      this.#loseParts(valueProblem(atByte, bytes));
      this.#lose(new Uint8Array(bytes));
    } else if (context === 'pages') this.#deliverPart({ type: 'page', bytes, atByte });
    else if (context === 'root' || context === 'log') {
      this.#deliverPart({ type: 'field', scope: context, key: this.#key, bytes, atByte });
    } else throw rootProblem(atByte, bytes);
  }

  /** Pages and fields that are no JSON are left out; where they hold what follows them, track was lost before. */
  #deliverPart(span: Extract<HarSpan, { type: 'page' | 'field' }>): void {
    const isRead = this.#onSpan(span);
    if (isRead) {
      // A bracket too few may have made all that follows a part of it: should no list come, the one in it is read.
      if (this.#inEntries.length === 0 && this.#swallowed(span.bytes))
        this.#swallower = { bytes: new Uint8Array(span.bytes), where: this.#where() };
      return;
    }
    this.#problem ??= valueProblem(span.atByte, span.bytes);
    if (this.#swallowed(span.bytes)) this.#lose(span.bytes.subarray(1));
    else if (!hasMatchingBrackets(span.bytes)) this.#lose(new Uint8Array());
  }

  #deliverEntry(bytes: Uint8Array, atByte: number): void {
    const isFlat = this.#value.deepest <= NESTING_LIMIT;
    if (isFlat && this.#onSpan({ type: 'entry', bytes, atByte, afterGap: this.#inGap })) {
      this.#entryCount++;
      if (this.#inGap) this.#gaps++;
      this.#inGap = false;
      return;
    }
    // Brackets that still match leave the rest of the list readable, unless entries were swallowed.
    if (this.#inGap || findEntryStart(bytes, 1) !== -1) this.#lose(bytes.subarray(1));
    else this.#gaps++;
  }

  /** A member's name; undefined where it is none, and the member is lost with it. */
  #readKey(bytes: Uint8Array): string | undefined {
    try {
      return String(JSON.parse(this.#decoder.decode(bytes)));
    } catch {
      this.#problem ??= keyProblem(this.#value.atByte, bytes);
      this.#onSpan({ type: 'lost', where: this.#context.includes('log') ? 'a member of log' : 'a member' });
      return undefined;
    }
  }

  /** From the list of entries on the next one is looked for; before it, the list. What begins as no capture is refused. */
  #fail(byte: number, at: number): number {
    const problem = byteProblem(this.#offset + at, this.#expect, byte);
    if (this.#context.length === 1) throw problem;
    if (this.#inEntries.length === 0) this.#loseParts(problem);
    else if (this.#expect === 'value' && this.#context.at(-1) !== 'entries')
      this.#lostBehind = { where: this.#where(), entries: this.#entryCount };
    this.#problem ??= problem;
    this.#lose(new Uint8Array());
    return at;
  }
}
