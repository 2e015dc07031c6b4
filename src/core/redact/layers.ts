// Encodings undone, each character with the place that it came from: what is found in the text as it is meant can be replaced in
// the text as it is written.

/** A text with one encoding undone. */
export interface Layer {
  readonly text: string;
  /** Where each character begins in what it was written as; one more for the end. */
  readonly starts: Int32Array;
  /** Writes a placeholder as this layer has to be written. */
  readonly write: (placeholder: string) => string;
}

interface Coding {
  /** Without this there is nothing to undo. */
  readonly mark: string;
  /** What stands for other characters. */
  readonly pattern: RegExp;
  readonly undo: (written: string) => string;
  readonly write: (placeholder: string) => string;
}

const decoder = new TextDecoder('utf-8', { ignoreBOM: true });

const SIGNS: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t', b: '\b', f: '\f' };
const ENTITIES: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };

/** How forms write a space. */
const SPACE = '+';

const CODINGS: readonly Coding[] = [
  {
    // RFC 3986 2.1; a run at once, as a character of UTF-8 takes several.
    mark: '%',
    pattern: /(?:%[0-9a-f]{2})+/gi,
    undo: (run) => {
      const pairs = run.match(/[0-9a-f]{2}/gi) ?? [];
      return decoder.decode(Uint8Array.from(pairs, (pair) => Number.parseInt(pair, 16)));
    },
    write: (placeholder) => encodeURIComponent(placeholder),
  },
  {
    // RFC 8259 7.
    mark: '\\',
    pattern: /\\(?:u[0-9a-f]{4}|.)/gis,
    undo: (written) =>
      written[1] === 'u' && written.length === 6
        ? String.fromCharCode(Number.parseInt(written.slice(2), 16))
        : (SIGNS[written[1] ?? ''] ?? written.slice(1)),
    write: (placeholder) => placeholder,
  },
  {
    // WHATWG HTML 13.5, the five that XML has, too.
    mark: '&',
    pattern: /&(?:#\d{1,6}|#x[0-9a-f]{1,5}|amp|lt|gt|quot|apos);/gi,
    undo: (written) => {
      const name = written.slice(1, -1).toLowerCase();
      if (!name.startsWith('#')) return ENTITIES[name] ?? written;
      const code = name[1] === 'x' ? Number.parseInt(name.slice(2), 16) : Number(name.slice(1));
      return code > 0x10ffff ? written : String.fromCodePoint(code);
    },
    write: (placeholder) => placeholder,
  },
  {
    // WHATWG URL 5: in a form a plus sign is a space.
    mark: SPACE,
    pattern: /\+/g,
    undo: () => ' ',
    write: (placeholder) => placeholder.replaceAll(' ', '+'),
  },
];

/**
 * The text with each encoding that it has undone by itself; none where it has none.
 * @param withSpaces whether anything that is looked for has a space: only that may hide behind the plus signs of a form
 */
export function layersOf(text: string, withSpaces: boolean): Layer[] {
  return CODINGS.flatMap(({ mark, pattern, undo, write }): Layer[] => {
    if (!text.includes(mark) || (mark === SPACE && !withSpaces)) return [];
    const starts = new Int32Array(text.length + 1);
    let inner = '';
    let copied = 0;
    const copy = (to: number): void => {
      for (let at = copied; at < to; at++) starts[inner.length + at - copied] = at;
      inner += text.slice(copied, to);
    };
    for (const match of text.matchAll(pattern)) {
      copy(match.index);
      const [written] = match;
      const undone = undo(written);
      // A run of percent signs stands for several characters: each begins with its share of it.
      const share = written.length / Math.max(1, undone.length);
      for (let at = 0; at < undone.length; at++)
        starts[inner.length + at] = match.index + placeIn(written, undone, at, share);
      inner += undone;
      copied = match.index + written.length;
    }
    copy(text.length);
    if (inner === text) return [];
    starts[inner.length] = text.length;
    return [{ text: inner, starts: starts.subarray(0, inner.length + 1), write }];
  });
}

/** Where a character of what was undone begins in what was written. */
function placeIn(written: string, undone: string, at: number, share: number): number {
  if (written[0] !== '%') return Math.round(at * share);
  // Three signs a byte of UTF-8.
  return 3 * new TextEncoder().encode(undone.slice(0, at)).length;
}
