import type { IncomingMessage } from 'node:http';
import type { AskedNotes } from '#core/wire';

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

/** So much of it is shown as it arrived. */
const SHOWN_BYTES = 4096;

/** The beginning of a payload, for who looks at the request; nothing where there is none. */
export const shownPayload = ({ bytes, length }: ArrivedBody): Pick<AskedNotes, 'payload'> =>
  length === 0
    ? {}
    : { payload: { text: Buffer.from(bytes.subarray(0, SHOWN_BYTES)).toString('latin1'), bytes: length } };

/** Reads a payload to its end, or to the bound; what comes behind that is left unread. */
export function readBody(message: IncomingMessage): Promise<ArrivedBody> {
  return new Promise((resolve) => {
    const chunks: Buffer[] = [];
    let kept = 0;
    let length = 0;
    const end = (broke: ArrivedBody['broke']): void => {
      message.off('data', add).off('end', whole).off('error', off).off('close', off);
      // Breaking off is no error that anybody else has to hear of.
      message.on('error', () => undefined);
      resolve({ bytes: Buffer.concat(chunks), length, broke });
    };
    const add = (chunk: Buffer): void => {
      length += chunk.length;
      if (kept < KEPT_BYTES) chunks.push(chunk.subarray(0, KEPT_BYTES - kept));
      kept += chunk.length;
      if (length <= MOST_BYTES) return;
      message.pause();
      end('too-long');
    };
    const whole = (): void => end('no');
    const off = (): void => end('off');
    message.on('data', add).on('end', whole).on('error', off).on('close', off);
  });
}
