import type { IncomingMessage } from 'node:http';
import type { NameValue } from '#core/model';
import { type Asked, type LocalAddresses, originOf } from '#core/rehearse';
import type { ArrivedBody } from './read-body';

/** The headers of a message as they arrived: in their order, with their letters. */
export const rawHeaders = ({ rawHeaders: raw }: IncomingMessage): NameValue[] =>
  raw.flatMap((name, at) => (at % 2 === 0 ? [{ name, value: raw[at + 1] ?? '' }] : []));

/** What arrived in the captured site's words: the rehearsal's addresses are the captured ones again, wherever they stand. */
export function askedOf(message: IncomingMessage, body: ArrivedBody, addresses: LocalAddresses): Asked {
  const target = message.url ?? '/';
  // A client that takes the rehearsal for its proxy names the host in the target (RFC 9112 3.2.2).
  const [, absolute, rest = '/'] = /^(https?:\/\/[^/?#]*)(.*)$/is.exec(target) ?? [];
  const own = absolute === undefined ? target : rest;
  const host = absolute === undefined ? (message.headers.host ?? '') : absolute.replace(/^https?:\/\//i, '');
  const asked = addresses.asked(host);
  const taken = addresses.takeBack(own.replace(/#.*$/s, ''));
  const question = taken.indexOf('?');
  return {
    method: message.method ?? 'GET',
    origin:
      asked?.type === 'origin'
        ? asked.origin
        : asked?.type === 'unknown'
          ? originOf(`https://${asked.host}`)
          : absolute === undefined
            ? undefined
            : originOf(absolute),
    path: question === -1 ? taken : taken.slice(0, question),
    query: question === -1 ? '' : taken.slice(question),
    headers: rawHeaders(message).map(({ name, value }) => ({ name, value: decoded(addresses.takeBack(value)) })),
    body: takenBack(body.bytes, addresses),
  };
}

/** Header values are bytes, one to a character; most that are not ASCII are UTF-8 (RFC 9110 5.5). */
function decoded(value: string): string {
  if (!/[\x80-\xff]/.test(value)) return value;
  const text = Buffer.from(value, 'latin1').toString('utf8');
  return text.includes('\ufffd') ? value : text;
}

function takenBack(bytes: Uint8Array, addresses: LocalAddresses): Uint8Array {
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (!buffer.includes('localhost')) return bytes;
  return Buffer.from(addresses.takeBack(buffer.toString('latin1')), 'latin1');
}
