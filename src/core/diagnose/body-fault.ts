import { essence } from '../har';
import { readJsonTree } from '../json';
import type { MetDemand } from '../links';
import type { Exchange, ResponsePart } from '../model';

/** What is wrong with a body, by its bytes. */
export type BodyFault = 'json' | 'text' | 'integrity' | 'opaque';

/** The digest of bytes in base64. */
export type Digest = (algorithm: 'sha256' | 'sha384' | 'sha512', bytes: Uint8Array) => string;

/** A body as it was recorded, decoded. */
export interface RecordedBody {
  readonly bytes: Uint8Array;
  /** Of its bytes; undefined where there are none. */
  readonly hash: string | undefined;
  readonly text: string | undefined;
  readonly isJson?: boolean;
  /** What its page demands of its bytes. */
  readonly demand?: MetDemand | undefined;
}

/** Longer JSON is taken for what it says: its reading would be somebody's wait. */
const READ_CHARS = 20_000_000;
const HEAD_BYTES = 256;

/**
 * What is wrong with a response's body: a type of JSON and text that does not parse (RFC 8259), text where an image or a
 * font was to come, or bytes that are not those the page demands. Only of bodies that were recorded whole.
 */
export function findFault(
  { kind, bodyBytes, request }: Exchange,
  response: ResponsePart,
  { bytes, text, demand }: RecordedBody,
  { digest }: { readonly digest: Digest },
): BodyFault | undefined {
  if (bytes.length === 0 || request.method === 'HEAD' || (bodyBytes ?? 0) > bytes.length) return undefined;
  const unmet = demand === undefined ? undefined : findUnmet(demand, response, bytes, digest);
  if (unmet !== undefined) return unmet;
  const type = essence(response.mimeType) ?? '';
  // A script runs, whatever its type is called: so JSON that calls a function is often sent.
  if (kind.value !== 'script' && /[/+]json$/.test(type) && !/json-seq|ndjson|jsonl/.test(type))
    return isBrokenJson(text) ? 'json' : undefined;
  const isDrawn = kind.value === 'image' || kind.value === 'font';
  return isDrawn && isPlainText(bytes) ? 'text' : undefined;
}

/** Recorded as bytes, or as text of which every coding makes the same bytes. */
const isExact = ({ body }: ResponsePart, bytes: Uint8Array): boolean =>
  body?.encoding !== 'text' || bytes.every((byte) => byte < 0x80);

/**
 * Why browsers refuse bytes for what their page demands: they have none of the digests of the strongest kind that is given
 * (Subresource Integrity 3.3.4), or may not be compared (Fetch 4.1).
 */
function findUnmet(
  { integrity, isOpaque }: MetDemand,
  response: ResponsePart,
  bytes: Uint8Array,
  digest: Digest,
): BodyFault | undefined {
  const wanted = [...integrity.matchAll(/(?:^|\s)(sha256|sha384|sha512)-([A-Za-z0-9+/_-]+)/gi)];
  const strongest = (['sha512', 'sha384', 'sha256'] as const).find((algorithm) =>
    wanted.some(([, name]) => name?.toLowerCase() === algorithm),
  );
  if (strongest === undefined) return undefined;
  if (isOpaque) return 'opaque';
  if (!isExact(response, bytes)) return undefined;
  const own = digest(strongest, bytes).replace(/=+$/, '');
  const isMet = wanted.some(
    ([, name, value = '']) =>
      name?.toLowerCase() === strongest && value.replaceAll('-', '+').replaceAll('_', '/') === own,
  );
  return isMet ? undefined : 'integrity';
}

function isBrokenJson(text: string | undefined): boolean {
  if (text === undefined || text.length > READ_CHARS || text.trim() === '') return false;
  // Guards against being read as a script, which the page takes off; and a byte order mark.
  const own = text.replace(/^\uFEFF/, '').replace(/^(\)\]\}',?|while\s*\(1\);|for\s*\(;;\);)\s*/, '');
  try {
    JSON.parse(own);
    return false;
  } catch {
    // What our own reader forgives is no fault of the body.
    return readJsonTree(own).problem !== undefined;
  }
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
