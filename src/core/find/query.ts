import { dateSpellings, numberSpellings } from './written';

/** What is looked for, and how. */
export interface FindQuery {
  readonly text: string;
  readonly isRegex: boolean;
  readonly matchesCase: boolean;
  readonly wholeWord: boolean;
}

/** How a value stands where it was found: as it was typed, encoded, or as the same number or date written otherwise. */
export type Form = 'plain' | 'url' | 'json' | 'base64' | 'number' | 'date';

/** One spelling of what is looked for. */
export interface Needle {
  readonly text: string;
  readonly form: Form;
  /** True where it is found whatever its case. */
  readonly ignoresCase: boolean;
}

/** Base64 of fewer bytes is found by chance. */
const LEAST_BASE64_CHARS = 8;

/** Every spelling under which a value may stand in a capture, itself first, none twice. */
export function spellingsOf(query: FindQuery): Needle[] {
  const { text, matchesCase } = query;
  const needles: Needle[] = [];
  const seen = new Set<string>();
  const add = (spelling: string, form: Form, ignoresCase: boolean): void => {
    const key = ignoresCase ? spelling.toLowerCase() : spelling;
    if (spelling === '' || seen.has(key)) return;
    seen.add(key);
    needles.push({ text: spelling, form, ignoresCase });
  };
  add(text, 'plain', !matchesCase);
  for (const spelling of urlSpellings(text)) add(spelling, 'url', !matchesCase);
  for (const spelling of jsonSpellings(text)) add(spelling, 'json', !matchesCase);
  for (const spelling of base64Spellings(text)) add(spelling, 'base64', false);
  for (const spelling of numberSpellings(text)) add(spelling, 'number', true);
  for (const spelling of dateSpellings(text)) {
    add(spelling, 'date', true);
    for (const encoded of urlSpellings(spelling)) add(encoded, 'date', true);
    for (const escaped of jsonSpellings(spelling)) add(escaped, 'date', true);
  }
  return needles;
}

/** Percent-encoded (RFC 3986 2.1), as components and as whole addresses are; spaces as %20 and as + (WHATWG URL 5.2). */
function urlSpellings(text: string): string[] {
  const formed = text.toWellFormed();
  const component = encodeURIComponent(formed);
  const strict = component.replace(/[!'()*]/g, (char) => `%${char.charCodeAt(0).toString(16).toUpperCase()}`);
  const upper = [component, encodeURI(formed), component.replaceAll('%20', '+'), strict];
  const lower = upper.map((one) => one.replace(/%[\dA-F]{2}/g, (code) => code.toLowerCase()));
  return [...upper, ...lower].filter((one) => one !== text);
}

/** Escaped as JSON strings are (RFC 8259 7): what must be, then also all that is not ASCII, then also slashes. */
function jsonSpellings(text: string): string[] {
  const least = JSON.stringify(text).slice(1, -1);
  const ascii = least.replace(/[\u0080-\uffff]/g, (char) => `\\u${char.charCodeAt(0).toString(16).padStart(4, '0')}`);
  const upper = ascii.replace(/\\u[\da-f]{4}/g, (code) => `\\u${code.slice(2).toUpperCase()}`);
  return [least, ascii, upper, least.replaceAll('/', '\\/')].filter((one) => one !== text);
}

/**
 * Base64 (RFC 4648 4 and 5) of anything that holds the text. Three bytes make four characters, so what stands before it
 * decides between three spellings; the characters at the ends, which neighbours have a part in, are left out.
 */
function base64Spellings(text: string): string[] {
  const bytes = new TextEncoder().encode(text);
  return [0, 1, 2].flatMap((shift) => {
    const padded = new Uint8Array(shift + bytes.length);
    padded.set(bytes, shift);
    const encoded = encodeBase64(padded);
    const first = Math.ceil((shift * 8) / 6);
    const last = Math.floor((padded.length * 8) / 6);
    const inner = encoded.slice(first, last);
    if (inner.length < LEAST_BASE64_CHARS) return [];
    return [inner, inner.replaceAll('+', '-').replaceAll('/', '_')];
  });
}

function encodeBase64(bytes: Uint8Array): string {
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
}
