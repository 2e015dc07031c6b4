/**
 * Text as bytes of a charset (WHATWG Encoding): the bytes that the charset's decoder makes this text of.
 * @returns undefined where the charset is unknown, writes characters in more than two bytes, or lacks one of them
 */
export function encodeText(text: string, charset: string): Uint8Array | undefined {
  const decoder = decoderOf(charset);
  if (decoder === undefined) return undefined;
  const { encoding } = decoder;
  if (encoding === 'utf-8') return new TextEncoder().encode(text);
  if (encoding === 'utf-16le' || encoding === 'utf-16be') return encodeUtf16(text, encoding === 'utf-16le');
  const table = tableOf(decoder, text);
  const bytes: number[] = [];
  for (const character of text) {
    const own = table.get(character);
    if (own === undefined) return undefined;
    bytes.push(...own);
  }
  return Uint8Array.from(bytes);
}

function decoderOf(charset: string): TextDecoder | undefined {
  try {
    return new TextDecoder(charset, { fatal: true, ignoreBOM: true });
  } catch {
    return undefined;
  }
}

function encodeUtf16(text: string, isLittleEndian: boolean): Uint8Array {
  const view = new DataView(new ArrayBuffer(text.length * 2));
  for (let at = 0; at < text.length; at++) view.setUint16(at * 2, text.charCodeAt(at), isLittleEndian);
  return new Uint8Array(view.buffer);
}

const BYTES = 256;
const FIRST_LEAD = 0x81;

/** The bytes of the characters of a text, found by decoding what one byte and what two bytes may stand for. */
function tableOf(decoder: TextDecoder, text: string): ReadonlyMap<string, readonly number[]> {
  const wanted = new Set(text);
  const table = new Map<string, readonly number[]>();
  const leads: number[] = [];
  const put = (bytes: readonly number[]): boolean => {
    try {
      const character = decoder.decode(Uint8Array.from(bytes));
      if (wanted.has(character) && !table.has(character)) table.set(character, bytes);
      return true;
    } catch {
      return false;
    }
  };
  for (let byte = 0; byte < BYTES; byte++) if (!put([byte]) && byte >= FIRST_LEAD) leads.push(byte);
  if (table.size < wanted.size) {
    for (const lead of leads) for (let trail = 0x40; trail < BYTES; trail++) put([lead, trail]);
  }
  return table;
}
