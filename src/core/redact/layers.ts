import { base64Of, bytesFromBase64, bytesFromText } from '../content';
import { ENTITY, readEntity } from '../wording';
import { BASE64 } from './variants';

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
    mark: '&',
    pattern: ENTITY,
    undo: readEntity,
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

/** What shows that one text stands encoded inside another: a quote in a string of JSON, in an attribute, in an address. */
const INNER: readonly (readonly [mark: RegExp, coding: (typeof CODINGS)[number]['mark']])[] = [
  [/\\(?:"|u0022)/, '\\'],
  [/&(?:quot|#34|#x22|amp);/i, '&'],
  [/%(?:0a|22|26|3a|3d|40)/i, '%'],
];
/** Longer texts are not unpacked from within others. */
const INNER_CHARS = 2_000_000;

/** The texts that stand encoded in a text: with its quotes undone, and each run of base64 that is text. */
export function innerTexts(text: string): string[] {
  if (text.length > INNER_CHARS) return [];
  const undone = INNER.flatMap(([mark, sign]): string[] => {
    const coding = CODINGS.find((one) => one.mark === sign);
    return coding === undefined || !mark.test(text) ? [] : [text.replace(coding.pattern, coding.undo)];
  });
  return [...undone, ...packedIn(text).map((packed) => packed.text)];
}

/** Where a character of what was undone begins in what was written. */
function placeIn(written: string, undone: string, at: number, share: number): number {
  if (written[0] !== '%') return Math.round(at * share);
  // Three signs a byte of UTF-8.
  return 3 * new TextEncoder().encode(undone.slice(0, at)).length;
}

/** A run of base64 that is text once it is undone. */
export interface Packed {
  /** Its place in the text. */
  readonly start: number;
  readonly end: number;
  readonly text: string;
  /** Another text as it would stand there. */
  readonly write: (text: string) => string;
}

/** Shorter ones hold no encoding of anything that is looked for. */
const LEAST_RUN = 16;
/** So many signs tell whether a run is text: hardly any other is text by chance. */
const TELLING_CHARS = 12;

/** The runs of base64 in a text, in either alphabet (RFC 4648 4 and 5), that are text in UTF-8, wherever in a run that begins. */
export function packedIn(text: string): Packed[] {
  return runsIn(text).flatMap(([index, padded]): Packed[] => {
    const run = text.slice(index, padded);
    const length = run.replace(/=+$/, '').length;
    const padding = run.slice(length);
    for (let shift = 0; shift < 4; shift++) {
      if (!mayBeText(run, shift)) continue;
      // One sign alone is no byte.
      const end = length - ((length - shift) % 4 === 1 ? 1 : 0);
      const inner = textOf(run.slice(shift, end));
      if (inner === undefined) continue;
      const isWeb = /[-_]/.test(run);
      const isPadded = (length - shift) % 4 === 0 || padding !== '';
      const write = (other: string): string => {
        const whole = base64Of(bytesFromText(other));
        const own = isPadded ? whole : whole.replace(/=+$/, '');
        return isWeb ? own.replaceAll('+', '-').replaceAll('/', '_') : own;
      };
      return [{ start: index + shift, end: index + (end === length ? run.length : end), text: inner, write }];
    }
    return [];
  });
}

/**
 * Where runs of base64's signs begin and end, in either alphabet, up to two signs of padding with them. Words are short: looked
 * at is one sign in sixteen, and what stands before it only where that may be part of a run.
 */
function runsIn(text: string): (readonly [start: number, end: number])[] {
  const runs: (readonly [number, number])[] = [];
  const isSign = (at: number): boolean => IS_SIGN[text.charCodeAt(at)] === 1;
  let start = 0;
  while (start + LEAST_RUN <= text.length) {
    let at = start + LEAST_RUN - 1;
    while (at >= start && isSign(at)) at--;
    if (at >= start) {
      start = at + 1;
      continue;
    }
    let end = start + LEAST_RUN;
    while (end < text.length && isSign(end)) end++;
    let padded = end;
    while (padded < end + 2 && text[padded] === '=') padded++;
    runs.push([start, padded]);
    start = padded;
  }
  return runs;
}

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

function textOf(run: string): string | undefined {
  const bytes = bytesFromBase64(run);
  if (bytes === undefined) return undefined;
  try {
    return strict.decode(bytes);
  } catch {
    return undefined;
  }
}

/** Whether the beginning of a run is text in UTF-8 (RFC 3629 4) from a sign on: without a control character but those of lines. */
function mayBeText(run: string, shift: number): boolean {
  let following = 0;
  let group = 0;
  for (let at = 0; at < TELLING_CHARS; at++) {
    group = ((group << 6) | (SEXTETS[run.charCodeAt(shift + at)] ?? 0)) & 0xffffff;
    if (at % 4 === 0) continue;
    // The second sign of four completes a byte, the third another, the fourth the last.
    const byte = (group >> (6 - 2 * (at % 4))) & 0xff;
    if (following > 0) {
      if (byte >> 6 !== 2) return false;
      following--;
    } else if (byte >= 0x80) {
      if (byte < 0xc2 || byte > 0xf4) return false;
      following = byte >= 0xf0 ? 3 : byte >= 0xe0 ? 2 : 1;
    } else if (byte < 9 || (byte > 13 && byte < 32) || byte === 127) return false;
  }
  return true;
}

/** What each sign of base64 stands for, by its code. */
const SEXTETS = new Uint8Array(128);
for (const [value, sign] of [...BASE64].entries()) SEXTETS[sign.charCodeAt(0)] = value;
SEXTETS['-'.charCodeAt(0)] = 62;
SEXTETS['_'.charCodeAt(0)] = 63;

const IS_SIGN = new Uint8Array(128);
for (const sign of `${BASE64}-_`) IS_SIGN[sign.charCodeAt(0)] = 1;
