import { knownCharset, textIn } from './encoding';

/**
 * Text as bytes of a charset (WHATWG Encoding): the bytes that the charset's decoder makes this text of.
 * @returns undefined where the charset is unknown, writes characters in more than two bytes, or lacks one of them
 */
export function encodeText(text: string, charset: string): Uint8Array | undefined {
  const encoding = knownCharset(charset);
  if (encoding === undefined) return undefined;
  if (encoding === 'utf-8') return new TextEncoder().encode(text);
  if (encoding === 'utf-16le' || encoding === 'utf-16be') return encodeUtf16(text, encoding === 'utf-16le');
  const table = tableOf(encoding);
  const bytes: number[] = [];
  for (const character of text) {
    const own = table.get(character);
    if (own === undefined) return undefined;
    bytes.push(...own);
  }
  return Uint8Array.from(bytes);
}

function encodeUtf16(text: string, isLittleEndian: boolean): Uint8Array {
  const view = new DataView(new ArrayBuffer(text.length * 2));
  for (let at = 0; at < text.length; at++) view.setUint16(at * 2, text.charCodeAt(at), isLittleEndian);
  return new Uint8Array(view.buffer);
}

const BYTES = 256;
const FIRST_LEAD = 0x81;
const FIRST_TRAIL = 0x40;
/** What no two bytes of a character hold: the decoder begins anew behind it, whatever it made of what stands before. */
const BETWEEN = 0x0a;
const UNREADABLE = '\ufffd';

const tables = new Map<string, ReadonlyMap<string, readonly number[]>>();

/** The bytes of every character of a charset, found by decoding what one byte and what two bytes may stand for. */
function tableOf(encoding: string): ReadonlyMap<string, readonly number[]> {
  const before = tables.get(encoding);
  if (before !== undefined) return before;
  const table = new Map<string, readonly number[]>();
  const put = (candidates: readonly (readonly number[])[]): boolean[] => {
    const bytes = Uint8Array.from(candidates.flatMap((candidate) => [...candidate, BETWEEN]));
    return textIn(encoding, bytes, { keepsMark: true })
      .split('\n')
      .slice(0, candidates.length)
      .map((text, at) => {
        const candidate = candidates[at];
        const isCharacter = [...text].length === 1 && text !== UNREADABLE;
        if (isCharacter && candidate !== undefined && !table.has(text)) table.set(text, candidate);
        return isCharacter;
      });
  };
  const single = Array.from({ length: BYTES }, (_, byte) => byte);
  const isSingle = put(single.filter((byte) => byte !== BETWEEN).map((byte) => [byte]));
  table.set('\n', [BETWEEN]);
  isSingle.splice(BETWEEN, 0, true);
  const leads = single.filter((byte) => byte >= FIRST_LEAD && isSingle[byte] === false);
  const trails = single.slice(FIRST_TRAIL);
  put(leads.flatMap((lead) => trails.map((trail) => [lead, trail])));
  tables.set(encoding, table);
  return table;
}
