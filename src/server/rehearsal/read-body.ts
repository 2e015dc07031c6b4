import type { IncomingMessage } from 'node:http';

/** A payload as it arrived: the first bytes of it, and how long it was. */
export interface ArrivedBody {
  readonly bytes: Uint8Array;
  readonly length: number;
  /** It ended before its end, or went on for too long. */
  readonly broke: 'no' | 'off' | 'too-long';
}

/** So much of a payload is kept and compared. */
const KEPT_BYTES = 10 * 1024 * 1024;
/** Nobody needs to send more to a rehearsal. */
const MOST_BYTES = 64 * 1024 * 1024;

/** Reads a payload to its end, or to the bound. */
export async function readBody(message: IncomingMessage): Promise<ArrivedBody> {
  const chunks: Buffer[] = [];
  let kept = 0;
  let length = 0;
  const end = (broke: ArrivedBody['broke']): ArrivedBody => ({ bytes: Buffer.concat(chunks), length, broke });
  try {
    for await (const chunk of message as AsyncIterable<Buffer>) {
      length += chunk.length;
      if (length > MOST_BYTES) return end('too-long');
      if (kept < KEPT_BYTES) chunks.push(chunk.subarray(0, KEPT_BYTES - kept));
      kept += chunk.length;
    }
  } catch {
    return end('off');
  }
  return end(message.complete ? 'no' : 'off');
}
