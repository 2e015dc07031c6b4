import { bytesFromText } from '../../content';
import type { NameValue } from '../../model';
import { payloadOfBytes } from '../draft';
import type { ReadRequest } from './request';

const START = /^([!#$%&'*+.^_`|~0-9A-Za-z-]+) (\S+)(?: HTTP\/(\d(?:\.\d)?))?$/;

/** HTTP/1.1 requests as they go on the wire (RFC 9112, 3 and 5), one behind the other; line ends may lack their CR. */
export function readHttpMessages(text: string): ReadRequest[] {
  const requests: ReadRequest[] = [];
  let rest = text.replace(/^\s+/, '');
  while (rest !== '') {
    const end = /\r?\n\r?\n/.exec(rest);
    const head = end === null ? rest : rest.slice(0, end.index);
    const behind = end === null ? '' : rest.slice(end.index + end[0].length);
    const [line = '', ...lines] = head.split(/\r?\n/);
    const start = START.exec(line.trim());
    if (start === null) break;
    const headers = readHeaders(lines);
    const length = headers.find(({ name }) => name.toLowerCase() === 'content-length')?.value;
    const bytes = bytesFromText(behind);
    const size = length === undefined ? bytes.length : Number(length);
    const notes =
      size > bytes.length ? [`The payload is ${bytes.length} bytes long, Content-Length says ${length}.`] : [];
    const body = bytes.subarray(0, size);
    requests.push(requestOf(start, headers, body, notes));
    rest =
      length === undefined
        ? ''
        : new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes.subarray(size)).replace(/^\s+/, '');
  }
  return requests;
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
  const host = headers.find(({ name }) => name.toLowerCase() === 'host')?.value ?? '';
  const isAbsolute = /^[a-z][a-z0-9+.-]*:\/\//i.test(target);
  // Nothing in the message says whether it went over TLS: names do, as a rule; loopback and port 80 do not.
  const scheme = /^(localhost|127\.|\[::1\])|:80$/.test(host) ? 'http' : 'https';
  const contentType = headers.find(({ name }) => name.toLowerCase() === 'content-type')?.value;
  return {
    method,
    url: isAbsolute ? target : `${scheme}://${host}${target}`,
    headers: headers.filter(({ name }) => !/^(host|content-length|transfer-encoding)$/i.test(name)),
    payload: body.length === 0 ? { type: 'none' } : payloadOfBytes(body, contentType),
    wantsCompressed: headers.some(({ name }) => name.toLowerCase() === 'accept-encoding'),
    notes: [
      ...notes,
      ...(host === '' && !isAbsolute ? ['The message has no Host header: the URL is not complete.'] : []),
      ...(isAbsolute || host === '' || scheme === 'http'
        ? []
        : ['The message does not say whether it went over TLS; https is taken.']),
    ],
  };
}
