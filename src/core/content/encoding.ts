// Browsers' own there; Node's has other tables for Korean and traditional Chinese, lacks some, and in Node 20 takes windows-1252 for Latin-1.
import { TextDecoder as LegacyDecoder } from '@exodus/bytes/encoding-browser.js';
import { essence } from '../har';

export const charsetOf = (mimeType: string | undefined): string | undefined =>
  /charset\s*=\s*"?([^";\s]+)/i.exec(mimeType ?? '')?.[1];

/**
 * The encoding of a body that browsers read as text: by its byte order mark, then the charset named in the type, then what
 * it says of itself (WHATWG Encoding 6.1, HTML 13.2.3.1). A page that says nothing and is no UTF-8 has the one that most of
 * them have.
 * @param mimeType absent where the bytes are UTF-8 whatever they say
 */
export function encodingOf(bytes: Uint8Array, mimeType: string | undefined): string {
  const marked = byteOrderMark(bytes) ?? knownCharset(charsetOf(mimeType));
  if (marked !== undefined || mimeType === undefined) return marked ?? 'utf-8';
  const type = essence(mimeType) ?? '';
  const declared = declaredIn(bytes, type).flatMap((label) => knownCharset(label) ?? [])[0];
  // What could be read so far is in no encoding of two bytes (HTML 13.2.3.2).
  if (declared !== undefined) return declared.startsWith('utf-16') ? 'utf-8' : declared;
  return /^text\/(?:html|plain)$/.test(type) && !isUtf8(bytes) ? 'windows-1252' : 'utf-8';
}

/** So much of a body is looked at for what it says of its encoding: browsers look at more than the standard asks of them. */
const DECLARED_BYTES = 4096;
/** What is in these is no markup. */
const NO_MARKUP = /<!--[\s\S]*?(?:-->|$)|<(script|style|title|textarea)\b[\s\S]*?(?:<\/\1|$)/gi;
const ATTRIBUTE = /([^\s"'>/=]+)\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s"'>]+))/g;

/** What a page, a style or XML says of its own encoding, in match order. */
function declaredIn(bytes: Uint8Array, type: string): readonly string[] {
  const isPage = type === 'text/html' || type === 'application/xhtml+xml';
  const isXml = /[/+]xml$/.test(type);
  if (!isPage && !isXml && type !== 'text/css') return [];
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, DECLARED_BYTES));
  const first = type === 'text/css' ? /^@charset "([^"]*)";/ : /^<\?xml\s[^>]*?encoding\s*=\s*["']([^"']+)/;
  const begun = first.exec(head)?.[1];
  if (begun !== undefined) return [begun];
  return type === 'text/html'
    ? (head
        .replace(NO_MARKUP, '')
        .match(/<meta\s[^>]*>/gi)
        ?.flatMap(labelOf) ?? [])
    : [];
}

/** The charset that a meta element names. */
function labelOf(element: string): string[] {
  const attributes = new Map<string, string>();
  for (const [, name = '', double, single, plain] of element.matchAll(ATTRIBUTE)) {
    const own = name.toLowerCase();
    if (!attributes.has(own)) attributes.set(own, (double ?? single ?? plain ?? '').trim());
  }
  const isType = /^content-type$/i.test(attributes.get('http-equiv') ?? '');
  const label = attributes.get('charset') ?? (isType ? charsetOf(attributes.get('content')) : undefined);
  return label === undefined ? [] : [label];
}

/** By its first bytes. */
export function byteOrderMark(bytes: Uint8Array): string | undefined {
  if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf) return 'utf-8';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  return bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : undefined;
}

/**
 * Bytes as text of an encoding (WHATWG Encoding 10).
 * @param isStrict bytes that are none of its text throw a TypeError; else U+FFFD stands for them
 * @throws RangeError where nobody knows the encoding
 */
export function textIn(
  encoding: string,
  bytes: Uint8Array,
  { isStrict = false, keepsMark = false }: { readonly isStrict?: boolean; readonly keepsMark?: boolean } = {},
): string {
  const Decoder = /^utf-/.test(encoding) ? TextDecoder : LegacyDecoder;
  return new Decoder(encoding, { fatal: isStrict, ignoreBOM: keepsMark }).decode(bytes);
}

/** The name of an encoding by its label; undefined where nobody knows it. */
export function knownCharset(label: string | undefined): string | undefined {
  if (label === undefined) return undefined;
  // No page is in it (HTML 13.2.3.2).
  if (/^x-user-defined$/i.test(label)) return 'windows-1252';
  try {
    return new LegacyDecoder(label).encoding;
  } catch {
    return undefined;
  }
}

function isUtf8(bytes: Uint8Array): boolean {
  try {
    // A beginning may end inside a letter.
    new TextDecoder('utf-8', { fatal: true }).decode(bytes, { stream: true });
    return true;
  } catch {
    return false;
  }
}
