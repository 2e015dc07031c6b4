import type { Duplex } from 'node:stream';
import { NOTE_HEADER, type Prepared } from './prepare';

/** A sentence as a response, where nothing captured is given. */
export function plainText(status: number, statusText: string, sentence: string): Prepared {
  const body = Buffer.from(`${sentence}\n`);
  return {
    type: 'response',
    status,
    statusText,
    headers: ['Content-Type', 'text/plain; charset=utf-8', 'Cache-Control', 'no-store', NOTE_HEADER, 'not captured'],
    body,
    plain: body,
    breaksOff: false,
    staysOpen: false,
    remarks: [],
  };
}

/** The same on a connection that is no longer HTTP's, or not yet. */
export function refuseRaw(socket: Duplex, status: number, text: string, sentence: string): void {
  const body = sentence === '' ? '' : `${sentence}\n`;
  const head = `HTTP/1.1 ${status} ${text}\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Length: ${Buffer.byteLength(body)}\r\nConnection: close\r\n\r\n`;
  socket.end(head + body, () => socket.destroy());
}
