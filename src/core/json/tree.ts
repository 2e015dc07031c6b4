import { type PathStyle, writePath } from './steps';

/** What a value is; the order gives each its code in `JsonTree.kinds`. */
const NODE_KINDS = ['object', 'array', 'string', 'number', 'true', 'false', 'null'] as const;
export type NodeKind = (typeof NODE_KINDS)[number];

/** Where a text stops being JSON (RFC 8259), and what would have been expected there. */
export interface JsonProblem {
  /** In UTF-16 units from the text's start. */
  readonly offset: number;
  readonly line: number;
  readonly expected: string;
}

/**
 * The values of a JSON text in the order in which they begin, by columns, so that a worker can hand over millions. The
 * text itself is not copied: a value is where it begins and ends in it.
 */
export interface JsonTree {
  readonly text: string;
  readonly count: number;
  readonly kinds: Uint8Array;
  readonly starts: Uint32Array;
  readonly ends: Uint32Array;
  /** Where a member's name begins, its quote included; 0 for what has no name. */
  readonly names: Uint32Array;
  readonly nameEnds: Uint32Array;
  /** The value that holds this one; -1 for the outermost. */
  readonly parents: Int32Array;
  /** The value's place among its parent's members, from 0. */
  readonly places: Uint32Array;
  /** The first value behind this one and all that is in it. */
  readonly nexts: Uint32Array;
  /** How many members a value has. */
  readonly sizes: Uint32Array;
  /** Absent where the text is JSON from end to end; what came before it is in the tree. */
  readonly problem: JsonProblem | undefined;
}

/** What services put before JSON, so that no page can read it as a script. */
const GUARD = /^\uFEFF?\s*(?:\)\]\}'?,?|for\s*\(;;\);|while\s*\(1\);|&&&START&&&)?/;
const NUMBER = /-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?/y;

/** Reads a JSON text value by value, without recursion. Damaged or cut-off JSON gives what came before the damage. */
export function readJsonTree(text: string): JsonTree {
  return new Reader(text).read();
}

type Columns = Omit<JsonTree, 'text' | 'count' | 'problem'>;

const makeColumns = (room: number): Columns => {
  const column = (): Uint32Array => new Uint32Array(room);
  return {
    kinds: new Uint8Array(room),
    starts: column(),
    ends: column(),
    names: column(),
    nameEnds: column(),
    parents: new Int32Array(room),
    places: column(),
    nexts: column(),
    sizes: column(),
  };
};

const LEAST_ROOM = 1024;
/** Larger columns are not kept. */
const MOST_SPARE = 65_536;
/** Columns of the last text that was read, for the next one. */
let spare: Columns | undefined;

class Reader {
  readonly #text: string;
  #at: number;
  #count = 0;
  #room: number;
  #kinds: Uint8Array;
  #starts: Uint32Array;
  #ends: Uint32Array;
  #names: Uint32Array;
  #nameEnds: Uint32Array;
  #parents: Int32Array;
  #places: Uint32Array;
  #nexts: Uint32Array;
  #sizes: Uint32Array;

  constructor(text: string) {
    this.#text = text;
    this.#at = GUARD.exec(text)?.[0].length ?? 0;
    const wanted = Math.max(LEAST_ROOM, text.length >> 4);
    // A capture has thousands of small texts: making columns for each takes longer than reading them.
    const columns = spare !== undefined && spare.kinds.length >= wanted ? spare : makeColumns(wanted);
    spare = undefined;
    this.#room = columns.kinds.length;
    this.#kinds = columns.kinds;
    this.#starts = columns.starts;
    this.#ends = columns.ends;
    this.#names = columns.names;
    this.#nameEnds = columns.nameEnds;
    this.#parents = columns.parents;
    this.#places = columns.places;
    this.#nexts = columns.nexts;
    this.#sizes = columns.sizes;
  }

  read(): JsonTree {
    const problem = this.#readAll();
    const count = this.#count;
    const all = this.#columns();
    if (this.#room <= MOST_SPARE) spare = all;
    // Copied to their length: what is handed over to another thread is the whole of what lies behind an array.
    return {
      text: this.#text,
      count,
      kinds: all.kinds.slice(0, count),
      starts: all.starts.slice(0, count),
      ends: all.ends.slice(0, count),
      names: all.names.slice(0, count),
      nameEnds: all.nameEnds.slice(0, count),
      parents: all.parents.slice(0, count),
      places: all.places.slice(0, count),
      nexts: all.nexts.slice(0, count),
      sizes: all.sizes.slice(0, count),
      problem,
    };
  }

  #columns(): Columns {
    return {
      kinds: this.#kinds,
      starts: this.#starts,
      ends: this.#ends,
      names: this.#names,
      nameEnds: this.#nameEnds,
      parents: this.#parents,
      places: this.#places,
      nexts: this.#nexts,
      sizes: this.#sizes,
    };
  }

  #readAll(): JsonProblem | undefined {
    let open = -1;
    for (;;) {
      this.#skipSpace();
      const node = this.#value(open);
      if (typeof node === 'string') return this.#stop(open, node);
      if (this.#kinds[node] === OBJECT || this.#kinds[node] === ARRAY) {
        open = node;
        this.#skipSpace();
        if (this.#text.charCodeAt(this.#at) !== this.#closer(open)) {
          const wrong = this.#nameNext(open);
          if (wrong !== undefined) return this.#stop(open, wrong);
          continue;
        }
        open = this.#close(open);
      }
      for (;;) {
        this.#skipSpace();
        if (open === -1) return this.#at < this.#text.length ? this.#stop(open, 'the end of the text') : undefined;
        const unit = this.#text.charCodeAt(this.#at);
        if (unit === this.#closer(open)) {
          open = this.#close(open);
        } else if (unit === COMMA) {
          this.#at++;
          this.#skipSpace();
          const wrong = this.#nameNext(open);
          if (wrong !== undefined) return this.#stop(open, wrong);
          break;
        } else {
          return this.#stop(open, this.#kinds[open] === OBJECT ? 'a comma or }' : 'a comma or ]');
        }
      }
    }
  }

  #nameStart = 0;
  #nameEnd = 0;

  /** Reads a member's name and colon, where an object is open. Returns what is missing. */
  #nameNext(open: number): string | undefined {
    if (this.#kinds[open] !== OBJECT) return undefined;
    const start = this.#at;
    if (this.#text.charCodeAt(start) !== QUOTE) return 'a name in quotes';
    const end = this.#endOfString(start);
    if (end === undefined) return 'the end of a name';
    this.#nameStart = start;
    this.#nameEnd = end;
    this.#at = end;
    this.#skipSpace();
    if (this.#text.charCodeAt(this.#at) !== COLON) return 'a colon';
    this.#at++;
    return undefined;
  }

  /** Reads a plain value, or the opening of a container. Returns its number, or what is missing. */
  #value(parent: number): number | string {
    const start = this.#at;
    const unit = this.#text.charCodeAt(start);
    if (unit === BRACE) return this.#add(OBJECT, parent, start, start + 1);
    if (unit === BRACKET) return this.#add(ARRAY, parent, start, start + 1);
    if (unit === QUOTE) {
      const end = this.#endOfString(start);
      return end === undefined ? 'the end of a string' : this.#add(STRING, parent, start, end);
    }
    // Letters are words, anything else can only be a number.
    if (unit > 0x60) {
      for (const [word, kind] of WORDS) {
        if (this.#text.startsWith(word, start)) return this.#add(kind, parent, start, start + word.length);
      }
      return 'a value';
    }
    NUMBER.lastIndex = start;
    const length = NUMBER.exec(this.#text)?.[0].length ?? 0;
    return length === 0 ? 'a value' : this.#add(NUMBER_KIND, parent, start, start + length);
  }

  #add(kind: number, parent: number, start: number, end: number): number {
    if (this.#count === this.#room) this.#grow();
    const node = this.#count++;
    this.#kinds[node] = kind;
    this.#parents[node] = parent;
    this.#starts[node] = start;
    this.#ends[node] = end;
    this.#nexts[node] = node + 1;
    // The columns may have been another text's.
    this.#sizes[node] = 0;
    this.#places[node] = 0;
    this.#names[node] = 0;
    this.#nameEnds[node] = 0;
    if (parent !== -1) {
      const place = this.#sizes[parent] ?? 0;
      this.#places[node] = place;
      this.#sizes[parent] = place + 1;
      if (this.#kinds[parent] === OBJECT) {
        this.#names[node] = this.#nameStart;
        this.#nameEnds[node] = this.#nameEnd;
      }
    }
    this.#at = end;
    return node;
  }

  #close(node: number): number {
    this.#at++;
    this.#ends[node] = this.#at;
    this.#nexts[node] = this.#count;
    return this.#parents[node] ?? -1;
  }

  /** Closes all that is open where the text stops being JSON. */
  #stop(open: number, expected: string): JsonProblem {
    const offset = this.#at;
    for (let node = open; node !== -1; node = this.#parents[node] ?? -1) {
      this.#ends[node] = offset;
      this.#nexts[node] = this.#count;
    }
    let line = 1;
    for (let at = this.#text.indexOf('\n'); at !== -1 && at < offset; at = this.#text.indexOf('\n', at + 1)) line++;
    return { offset, line, expected };
  }

  #closer(open: number): number {
    return this.#kinds[open] === OBJECT ? CLOSING_BRACE : CLOSING_BRACKET;
  }

  #skipSpace(): void {
    for (;;) {
      const unit = this.#text.charCodeAt(this.#at);
      if (unit !== 0x20 && unit !== 0x0a && unit !== 0x0d && unit !== 0x09) return;
      this.#at++;
    }
  }

  /** The unit behind a string's closing quote; undefined where it has none. */
  #endOfString(start: number): number | undefined {
    for (let at = this.#text.indexOf('"', start + 1); at !== -1; at = this.#text.indexOf('"', at + 1)) {
      let slashes = 0;
      while (this.#text.charCodeAt(at - 1 - slashes) === BACKSLASH) slashes++;
      if (slashes % 2 === 0) return at + 1;
    }
    return undefined;
  }

  #grow(): void {
    this.#room *= 2;
    const grown = <T extends Uint8Array | Uint32Array | Int32Array>(array: T, larger: T): T => {
      larger.set(array);
      return larger;
    };
    const column = (array: Uint32Array): Uint32Array => grown(array, new Uint32Array(this.#room));
    this.#kinds = grown(this.#kinds, new Uint8Array(this.#room));
    this.#parents = grown(this.#parents, new Int32Array(this.#room));
    this.#starts = column(this.#starts);
    this.#ends = column(this.#ends);
    this.#names = column(this.#names);
    this.#nameEnds = column(this.#nameEnds);
    this.#places = column(this.#places);
    this.#nexts = column(this.#nexts);
    this.#sizes = column(this.#sizes);
  }
}

const [OBJECT, ARRAY, STRING, NUMBER_KIND] = [0, 1, 2, 3] as const;
const WORDS = [
  ['true', 4],
  ['false', 5],
  ['null', 6],
] as const;
const QUOTE = 0x22;
const BACKSLASH = 0x5c;
const COMMA = 0x2c;
const COLON = 0x3a;
const BRACE = 0x7b;
const BRACKET = 0x5b;
const CLOSING_BRACE = 0x7d;
const CLOSING_BRACKET = 0x5d;

export const kindOf = (tree: JsonTree, node: number): NodeKind => NODE_KINDS[tree.kinds[node] ?? 6] ?? 'null';

/** The members of an object or an array, in their order. */
export function* membersOf(tree: JsonTree, node: number): Generator<number> {
  const end = tree.nexts[node] ?? 0;
  for (let at = node + 1; at < end; at = tree.nexts[at] ?? end) yield at;
}

/** A value's very characters. */
export const nodeText = (tree: JsonTree, node: number): string => tree.text.slice(tree.starts[node], tree.ends[node]);

/** What a plain value says: a string without quotes and escapes, anything else as it is written. */
export function plainValue(tree: JsonTree, node: number): string {
  const text = nodeText(tree, node);
  return tree.kinds[node] === STRING ? unquote(text) : text;
}

function unquote(quoted: string): string {
  try {
    return JSON.parse(quoted) as string;
  } catch {
    // Control characters stand unescaped in it, as some writers leave them.
    return quoted.slice(1, -1);
  }
}

/** A member's name, or its place in an array; undefined for the outermost value. */
export function keyOf(tree: JsonTree, node: number): string | number | undefined {
  if ((tree.parents[node] ?? -1) === -1) return undefined;
  const end = tree.nameEnds[node] ?? 0;
  return end === 0 ? tree.places[node] : unquote(tree.text.slice(tree.names[node], end));
}

/** The innermost value that a place of the text lies in; a member's name belongs to it. Undefined before the first. */
export function nodeAt(tree: JsonTree, offset: number): number | undefined {
  let low = 0;
  let high = tree.count;
  const from = (node: number): number => (tree.nameEnds[node] ? (tree.names[node] ?? 0) : (tree.starts[node] ?? 0));
  while (low < high) {
    const middle = (low + high) >> 1;
    if (from(middle) <= offset) low = middle + 1;
    else high = middle;
  }
  let node = low - 1;
  while (node > 0 && (tree.ends[node] ?? 0) <= offset) node = tree.parents[node] ?? 0;
  return node < 0 ? undefined : node;
}

/** The values to show, in order: all but those inside a folded one. */
export function visibleNodes(tree: JsonTree, isFolded: (node: number) => boolean): Uint32Array {
  const shown = new Uint32Array(tree.count);
  let length = 0;
  for (let node = 0; node < tree.count; ) {
    shown[length++] = node;
    node = (tree.sizes[node] ?? 0) > 0 && isFolded(node) ? (tree.nexts[node] ?? node + 1) : node + 1;
  }
  return shown.subarray(0, length);
}

/** A container's first characters on one line, white space left out, for where it is folded. */
export function previewOf(tree: JsonTree, node: number, chars: number): string {
  const start = tree.starts[node] ?? 0;
  const end = tree.ends[node] ?? 0;
  const text = tree.text.slice(start, Math.min(end, start + chars * 4)).replace(/\s+/g, ' ');
  return text.length <= chars && end <= start + chars * 4 ? text : `${text.slice(0, chars)}…`;
}

/** The way to a value from the outermost one. */
export function pathTo(tree: JsonTree, node: number, style: PathStyle): string {
  const steps: (string | number)[] = [];
  for (let at = node; (tree.parents[at] ?? -1) !== -1; at = tree.parents[at] ?? -1) {
    const key = keyOf(tree, at);
    if (key !== undefined) steps.push(key);
  }
  return writePath(steps.reverse(), style);
}
