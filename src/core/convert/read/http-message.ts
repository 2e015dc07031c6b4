import { bytesFromText, joinBytes } from '../../content';
import { isLoopback } from '../../http';
import { findHeader, type NameValue } from '../../model';
import { payloadOfBytes } from '../draft';
import type { ReadRequest } from './request';

const START = /^([!#$%&'*+.^_`|~0-9A-Za-z-]+) (\S+)(?: HTTP\/(\d(?:\.\d)?))?$/;

/** HTTP/1.1 requests as they go on the wire (RFC 9112, 3 and 5), one behind the other; line ends may lack their CR. */
export function readHttpMessages(text: string): ReadRequest[] {
  // Messages that lines of "###" part are read by themselves; what stands behind one is its name.
  if (/^###/m.test(text)) return text.split(/^###.*$/m).flatMap((piece) => readHttpMessages(withoutComments(piece)));
  const requests: ReadRequest[] = [];
  let rest = fromPseudoHeaders(text).replace(/^\s+/, '');
  while (rest !== '') {
    const end = /\r?\n\r?\n/.exec(rest);
    const head = end === null ? rest : rest.slice(0, end.index);
    const behind = end === null ? '' : rest.slice(end.index + end[0].length);
    const [line = '', ...lines] = head.split(/\r?\n/);
    const start = START.exec(line.trim());
    if (start === null) break;
    const headers = readHeaders(lines);
    const length = findHeader(headers, 'content-length');
    const isChunked = headers.some(
      ({ name, value }) => name.toLowerCase() === 'transfer-encoding' && /chunked/i.test(value),
    );
    const all = bytesFromText(behind);
    const unframed = isChunked ? withoutChunks(all) : undefined;
    const bytes = unframed?.body ?? all;
    // Without a length a message ends where the next one begins.
    const next = length === undefined && unframed === undefined ? NEXT.exec(`\n${behind}`) : null;
    const size =
      next !== null
        ? bytesFromText(behind.slice(0, Math.max(0, next.index - 1))).length
        : length === undefined || unframed !== undefined
          ? bytes.length
          : Number(length);
    const notes =
      size > bytes.length ? [`The payload is ${bytes.length} bytes long, Content-Length says ${length}.`] : [];
    const body = bytes.subarray(0, size);
    requests.push(requestOf(start, headers, body, notes));
    const behindAll = unframed === undefined ? bytes.subarray(size) : unframed.rest;
    rest =
      length === undefined && next === null && unframed === undefined
        ? ''
        : new TextDecoder('utf-8', { ignoreBOM: true }).decode(behindAll).replace(/^\s+/, '');
  }
  return requests;
}

/** The start of another message. */
const NEXT = /\n(?=[A-Z]{3,10} \S+ HTTP\/\d(?:\.\d)?\r?(?:\n|$))/;

/** Lines before a message that only people read. */
const withoutComments = (piece: string): string => piece.replace(/^\s*(?:(?:#|\/\/)[^\n]*\n\s*)*/, '');

/** HTTP/2's pseudo-headers as the start line that they stand for (RFC 9113 8.3.1). */
function fromPseudoHeaders(text: string): string {
  const fields = new Map<string, string>();
  const others = text.replace(
    /^[ \t]*:(method|scheme|authority|path)(?::[ \t]*|[ \t]*\n[ \t]*)([^\n]*)\n?/gm,
    (_, name: string, value: string) => {
      fields.set(name, value.trim());
      return '';
    },
  );
  if (fields.get('method') === undefined || fields.get('path') === undefined) return text;
  const origin = `${fields.get('scheme') ?? 'https'}://${fields.get('authority') ?? ''}`;
  return `${fields.get('method')} ${origin}${fields.get('path')} HTTP/2\n${others.replace(/^\s+/, '')}`;
}

/** A chunked body put together (RFC 9112 7.1); undefined where it is not framed so. */
function withoutChunks(bytes: Uint8Array): { readonly body: Uint8Array; readonly rest: Uint8Array } | undefined {
  const pieces: Uint8Array[] = [];
  let at = 0;
  for (;;) {
    let end = at;
    while (end < bytes.length && bytes[end] !== 0x0a) end++;
    const line = new TextDecoder('latin1').decode(bytes.subarray(at, end)).trim();
    if (end >= bytes.length && line === '') return undefined;
    if (!/^[0-9a-f]+(?:;.*)?$/i.test(line)) return undefined;
    const length = Number.parseInt(line, 16);
    at = end + 1;
    if (length === 0) {
      const trailer =
        /^(?:[^\r\n][^\n]*\n)*\r?\n?/.exec(new TextDecoder('latin1').decode(bytes.subarray(at)))?.[0].length ?? 0;
      return { body: joinBytes(pieces), rest: bytes.subarray(at + trailer) };
    }
    if (at + length > bytes.length) return undefined;
    pieces.push(bytes.subarray(at, at + length));
    at += length;
    if (bytes[at] === 0x0d) at++;
    if (bytes[at] === 0x0a) at++;
  }
}

function readHeaders(lines: readonly string[]): NameValue[] {
  const headers: NameValue[] = [];
  for (const line of lines) {
    const last = headers.at(-1);
    const colon = line.indexOf(':');
    // A line that begins with a blank goes on with the header before it (RFC 9112, 5.2).
    if (/^[ \t]/.test(line) && last !== undefined)
      headers[headers.length - 1] = { name: last.name, value: `${last.value} ${line.trim()}` };
    else if (colon > 0)
      headers.push({ name: line.slice(0, colon), value: line.slice(colon + 1).replace(/^[ \t]+|[ \t]+$/g, '') });
  }
  return headers;
}

function requestOf(
  [, method = '', target = '']: RegExpExecArray,
  headers: readonly NameValue[],
  body: Uint8Array,
  notes: readonly string[],
): ReadRequest {
  const host = findHeader(headers, 'host') ?? '';
  const isAbsolute = /^[a-z][a-z0-9+.-]*:\/\//i.test(target);
  // Nothing in the message says whether it went over TLS: names do, as a rule; loopback and port 80 do not.
  const scheme = isLoopback(`http://${host}`) || host.endsWith(':80') ? 'http' : 'https';
  const contentType = findHeader(headers, 'content-type');
  return {
    method,
    url: isAbsolute ? target : `${scheme}://${host}${target}`,
    headers: headers.filter(({ name }) => !/^(host|content-length|transfer-encoding)$/i.test(name)),
    payload: body.length === 0 ? { type: 'none' } : payloadOfBytes(body, contentType),
    wantsCompressed: findHeader(headers, 'accept-encoding') !== undefined,
    notes: [
      ...notes,
      ...(host === '' && !isAbsolute ? ['The message has no Host header: the URL is not complete.'] : []),
      ...(isAbsolute || host === '' || scheme === 'http'
        ? []
        : ['The message does not say whether it went over TLS; https is taken.']),
    ],
  };
}
