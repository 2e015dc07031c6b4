import {
  columnOf,
  type ExchangeRow,
  FLAG_COLUMNS,
  NUMBER_COLUMNS,
  type RowColumn,
  raiseRow,
  TEXT_COLUMNS,
} from '../analysis';

/** A column of texts as codes into its distinct values; -1 for absent. */
export interface PackedTexts {
  readonly values: readonly string[];
  readonly codes: readonly number[];
}

/** Texts as codes into the distinct ones among them. */
export function packTexts(column: readonly (string | null | undefined)[]): PackedTexts {
  const codeOf = new Map<string, number>();
  const codes = column.map((text) => {
    if (text === undefined || text === null) return -1;
    const code = codeOf.get(text) ?? codeOf.size;
    codeOf.set(text, code);
    return code;
  });
  return { values: [...codeOf.keys()], codes };
}

/**
 * Rows by columns, as bytes: blocks one behind the other, each with its length and that of its head (uint32, as this
 * machine has them), the head as JSON, and from the next multiple of eight on its columns, each from a multiple of eight
 * on. So they are kept, so they travel, and so they are read: no number is written out and read again.
 */
export type PackedRows = Uint8Array<ArrayBuffer>;

/** The header that says of packed rows whether bodies had been read: who names whom is known then. */
export const DIAGNOSED_HEADER = 'trazado-diagnosed';

/** Rows of a block: few enough that reading one of them costs little, so many that heads do not count. */
const ROWS_A_BLOCK = 4096;

/** The widths in which whole numbers are kept, the least of which stands for an absent one; the others are doubles, absent as NaN. */
const WHOLE = { i8: Int8Array, i16: Int16Array, i32: Int32Array } as const;
const LEAST = { i8: -(2 ** 7), i16: -(2 ** 15), i32: -(2 ** 31) } as const;
type Whole = keyof typeof WHOLE;
const WIDTHS = Object.keys(WHOLE) as readonly Whole[];

/** A column of a block: how its numbers are kept, and where they begin behind the head. */
interface HeadColumn {
  readonly kept: Whole | 'f64' | 'none';
  readonly at: number;
  /** Of texts: the distinct ones, which the numbers are places in. */
  readonly values?: readonly string[];
}

interface BlockHead {
  readonly count: number;
  readonly columns: Readonly<Record<RowColumn, HeadColumn>>;
}

const WORD = 8;
/** The two lengths ahead of each block. */
const PREFIX = 8;
const aligned = (length: number): number => Math.ceil(length / WORD) * WORD;

type Numbers = Int8Array<ArrayBuffer> | Int16Array<ArrayBuffer> | Int32Array<ArrayBuffer> | Float64Array<ArrayBuffer>;

/** The narrowest numbers that keep these as they are. */
function narrow(values: readonly (number | undefined)[]): {
  readonly kept: HeadColumn['kept'];
  readonly numbers?: Numbers;
} {
  let low = 0;
  let high = 0;
  let isWhole = true;
  let isAbsent = true;
  for (const value of values) {
    if (value === undefined) continue;
    isAbsent = false;
    if (!Number.isInteger(value) || Object.is(value, -0)) isWhole = false;
    if (value < low) low = value;
    if (value > high) high = value;
  }
  if (isAbsent) return { kept: 'none' };
  const kept = isWhole ? WIDTHS.find((width) => low > LEAST[width] && high < -LEAST[width]) : undefined;
  if (kept === undefined) return { kept: 'f64', numbers: Float64Array.from(values, (value) => value ?? Number.NaN) };
  const numbers = new WHOLE[kept](values.length);
  for (const [at, value] of values.entries()) numbers[at] = value ?? LEAST[kept];
  return { kept, numbers };
}

/** At most ROWS_A_BLOCK rows as a block. */
function packBlock(rows: readonly ExchangeRow[]): PackedRows {
  const parts: { readonly at: number; readonly numbers: Numbers }[] = [];
  const columns: Partial<Record<RowColumn, HeadColumn>> = {};
  let at = 0;
  const add = (column: RowColumn, numbers: readonly (number | undefined)[], values?: readonly string[]): void => {
    const { kept, numbers: narrowed } = narrow(numbers);
    columns[column] = { kept, at, ...(values === undefined ? {} : { values }) };
    if (narrowed === undefined) return;
    parts.push({ at, numbers: narrowed });
    at += aligned(narrowed.byteLength);
  };
  for (const column of NUMBER_COLUMNS)
    add(
      column,
      rows.map((row) => columnOf(row, column) as number | undefined),
    );
  for (const column of FLAG_COLUMNS)
    add(
      column,
      rows.map((row) => (columnOf(row, column) === true ? 1 : undefined)),
    );
  for (const column of TEXT_COLUMNS) {
    const { values, codes } = packTexts(rows.map((row) => columnOf(row, column) as string | undefined));
    add(
      column,
      codes.map((code) => (code === -1 ? undefined : code)),
      values,
    );
  }
  const head = new TextEncoder().encode(JSON.stringify({ count: rows.length, columns }));
  const begin = aligned(PREFIX + head.length);
  const block = new Uint8Array(begin + at);
  new Uint32Array(block.buffer, 0, 2).set([block.length, head.length]);
  block.set(head, PREFIX);
  for (const { at: from, numbers } of parts) block.set(new Uint8Array(numbers.buffer), begin + from);
  return block;
}

/** A block by itself: the place of its first row, and how many it has. */
export interface PackedBlock {
  readonly first: number;
  readonly count: number;
  readonly bytes: PackedRows;
}

/** Rows as blocks, for keeping each by itself. */
export function packBlocks(rows: readonly ExchangeRow[]): PackedBlock[] {
  const blocks: PackedBlock[] = [];
  for (let at = 0; at < rows.length; at += ROWS_A_BLOCK) {
    const own = rows.slice(at, at + ROWS_A_BLOCK);
    blocks.push({ first: own[0]?.index ?? 0, count: own.length, bytes: packBlock(own) });
  }
  return blocks;
}

export function joinBlocks(blocks: readonly Uint8Array[]): PackedRows {
  const joined = new Uint8Array(blocks.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const block of blocks) {
    joined.set(block, at);
    at += block.length;
  }
  return joined;
}

export const packRows = (rows: readonly ExchangeRow[]): PackedRows =>
  joinBlocks(packBlocks(rows).map(({ bytes }) => bytes));

/** A block opened: how many rows it has, and what stands at a place of a column, made ready when first asked for. */
export class RowBlock {
  readonly count: number;
  readonly #head: BlockHead;
  readonly #buffer: ArrayBuffer;
  readonly #begin: number;

  /** @param bytes from a multiple of eight of their buffer on */
  constructor(bytes: Uint8Array) {
    const [, headLength = 0] = new Uint32Array(bytes.buffer, bytes.byteOffset, 2);
    const head = new TextDecoder().decode(bytes.subarray(PREFIX, PREFIX + headLength));
    this.#head = JSON.parse(head) as BlockHead;
    // Never one that threads share: those of a database, of a response and of packing are not.
    this.#buffer = bytes.buffer as ArrayBuffer;
    this.#begin = bytes.byteOffset + aligned(PREFIX + headLength);
    this.count = this.#head.count;
  }

  /** A column: its value at each place, undefined where there is none. */
  column(name: RowColumn): (place: number) => string | number | undefined {
    const { kept, at, values } = this.#head.columns[name];
    if (kept === 'none') return () => undefined;
    const from = this.#begin + at;
    if (kept === 'f64') {
      const numbers = new Float64Array(this.#buffer, from, this.count);
      return (place) => {
        const value = numbers[place];
        return value === undefined || Number.isNaN(value) ? undefined : value;
      };
    }
    const numbers = new WHOLE[kept](this.#buffer, from, this.count);
    const absent = LEAST[kept];
    if (values === undefined) return (place) => (numbers[place] === absent ? undefined : numbers[place]);
    return (place) => {
      const code = numbers[place] ?? absent;
      return code === absent ? undefined : values[code];
    };
  }

  /** Makes rows of the exchanges, each given its place in the block. */
  #raise(): (place: number) => ExchangeRow {
    return raiseRow(<Value>(name: RowColumn) => this.column(name) as (place: number) => Value);
  }

  rows(): ExchangeRow[] {
    const row = this.#raise();
    return Array.from({ length: this.count }, (_, place) => row(place));
  }

  /** The row of one exchange; undefined where it is not of this block. */
  find(index: number): ExchangeRow | undefined {
    const indexAt = this.column('index');
    for (let place = 0; place < this.count; place++) if (indexAt(place) === index) return this.#raise()(place);
    return undefined;
  }
}

/** The blocks of packed rows, in their order. */
export function* openBlocks(packed: Uint8Array): Generator<RowBlock> {
  // What a database hands out may begin anywhere in its buffer.
  const bytes = packed.byteOffset % WORD === 0 ? packed : packed.slice();
  for (let at = 0; at < bytes.length; ) {
    const [length = 0] = new Uint32Array(bytes.buffer, bytes.byteOffset + at, 1);
    yield new RowBlock(bytes.subarray(at, at + length));
    at += length;
  }
}

/** The rows again, as `packRows` was given them. */
export const unpackRows = (packed: Uint8Array): ExchangeRow[] =>
  [...openBlocks(packed)].flatMap((block) => block.rows());
