import { keyOf, readJsonTree } from '../json';

/** Smaller bodies are not worth thinning out. */
export const LARGE_JSON_BYTES = 100_000;
/** A body of more values than this is not taken apart: its reading is somebody's wait. */
const MOST_CHARS = 20_000_000;

/**
 * What each field name of a large JSON body takes: its name and its own plain values, in bytes of UTF-8, over all objects.
 * Undefined for small bodies and for what is not JSON from end to end.
 */
export function measureFields(text: string): ReadonlyMap<string, number> | undefined {
  // No character takes more than three bytes a unit: what is shorter is surely small.
  if (text.length * 3 < LARGE_JSON_BYTES || text.length > MOST_CHARS) return undefined;
  const tree = readJsonTree(text);
  if (tree.problem !== undefined) return undefined;
  const bytes = new Map<string, number>();
  for (let node = 0; node < tree.count; node++) {
    const key = keyOf(tree, node);
    if (typeof key !== 'string') continue;
    const hasMembers = (tree.sizes[node] ?? 0) > 0;
    const end = hasMembers ? tree.nameEnds[node] : tree.ends[node];
    // With the comma behind it, and the quotes or the colon that no span has.
    bytes.set(key, (bytes.get(key) ?? 0) + utf8Between(text, tree.names[node] ?? 0, end ?? 0) + 2);
  }
  return bytes;
}

/** Bytes of UTF-8 that a stretch of a text takes (RFC 3629 3); each half of a surrogate pair counts two of its four. */
function utf8Between(text: string, from: number, to: number): number {
  let bytes = 0;
  for (let at = from; at < to; at++) {
    const unit = text.charCodeAt(at);
    bytes += unit < 0x80 ? 1 : unit < 0x800 || (unit >= 0xd800 && unit <= 0xdfff) ? 2 : 3;
  }
  return bytes;
}
