import { essence } from '../har';
import { readJsonTree } from '../json';
import type { Exchange, ResponsePart } from '../model';

/** What is wrong with a body, by its bytes. */
export type BodyFault = 'json' | 'text';

interface Body {
  readonly bytes: Uint8Array;
  readonly text: string | undefined;
}

/** Longer JSON is taken for what it says: its reading would be somebody's wait. */
const READ_CHARS = 20_000_000;
const HEAD_BYTES = 256;

/**
 * What is wrong with a response's body: a type of JSON and text that does not parse (RFC 8259), or text where an image or
 * a font was to come. Only of bodies that were recorded whole.
 */
export function findFault(
  { kind, bodyBytes, request }: Exchange,
  response: ResponsePart,
  { bytes, text }: Body,
): BodyFault | undefined {
  if (bytes.length === 0 || request.method === 'HEAD' || (bodyBytes ?? 0) > bytes.length) return undefined;
  const type = essence(response.mimeType) ?? '';
  if (/[/+]json$/.test(type) && !/json-seq|ndjson|jsonl/.test(type)) return isBrokenJson(text) ? 'json' : undefined;
  const isDrawn = kind.value === 'image' || kind.value === 'font';
  return isDrawn && isPlainText(bytes) ? 'text' : undefined;
}

function isBrokenJson(text: string | undefined): boolean {
  if (text === undefined || text.length > READ_CHARS || text.trim() === '') return false;
  // Guards against being read as a script, which the page takes off; and a byte order mark.
  const own = text.replace(/^\uFEFF/, '').replace(/^(\)\]\}',?|while\s*\(1\);|for\s*\(;;\);)\s*/, '');
  return readJsonTree(own).problem !== undefined;
}

/** Text that is neither a drawing (SVG) nor a page: a page is told as that. */
function isPlainText(bytes: Uint8Array): boolean {
  const head = bytes.subarray(0, HEAD_BYTES);
  if (head.some((byte) => (byte < 0x20 && byte !== 0x09 && byte !== 0x0a && byte !== 0x0d) || byte >= 0x7f))
    return false;
  const text = String.fromCharCode(...head)
    .trimStart()
    .toLowerCase();
  // Formats of fonts and images that begin with letters: OpenType, WOFF, GIF, BMP, PDF and XPM.
  return !/^(<|otto|ttcf|wof[f2]|true|typ1|gif8|bm|%pdf|%!ps|\/\* xpm)/.test(text);
}
