import { gzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { inflateWithZlib } from '../../server/inflate';
import type { Payload, ResponsePart } from '../model';
import { bodyKind, bytesFromText, decodeBody, decodeText, readPayloadContent } from './index';

const response = (body: ResponsePart['body'], contentEncoding?: string): ResponsePart => ({
  status: 200,
  statusText: '',
  protocol: undefined,
  headers: contentEncoding === undefined ? [] : [{ name: 'Content-Encoding', value: contentEncoding }],
  redirectUrl: undefined,
  mimeType: undefined,
  body,
});
const base64 = (bytes: Uint8Array): string => Buffer.from(bytes).toString('base64');

describe('decodeBody', () => {
  it('unpacks what a recorder left packed, by content-encoding and the mark of its bytes', () => {
    const packed = base64(gzipSync('the lamps are lit'));
    const body = decodeBody(response({ encoding: 'base64', text: packed }, 'gzip'), inflateWithZlib);
    expect(new TextDecoder().decode(body?.bytes)).toBe('the lamps are lit');
    expect(body?.unpackedFrom).toBe('gzip');
  });

  it('leaves alone what the recorder unpacked already although the header still names gzip', () => {
    const plain = decodeBody(
      response({ encoding: 'base64', text: base64(bytesFromText('plain')) }, 'gzip'),
      inflateWithZlib,
    );
    expect(plain).toEqual({ bytes: bytesFromText('plain'), unpackedFrom: undefined });
    expect(decodeBody(response({ encoding: 'text', text: 'é' }, 'br'), inflateWithZlib)?.bytes).toEqual(
      bytesFromText('é'),
    );
  });

  it('does not unpack beyond its bound', () => {
    const bomb = gzipSync(Buffer.alloc(1_000_000));
    expect(inflateWithZlib(bomb, 'gzip', 1000)).toBeUndefined();
  });

  it('tells a body that was not recorded from an empty one, and shows broken base64 as the text that it is', () => {
    expect(decodeBody(response(undefined), inflateWithZlib)).toBeUndefined();
    expect(decodeBody(response({ encoding: 'text', text: '' }), inflateWithZlib)?.bytes.length).toBe(0);
    expect(decodeBody(response({ encoding: 'base64', text: '%%%' }), inflateWithZlib)?.bytes).toEqual(
      bytesFromText('%%%'),
    );
  });
});

describe('bodyKind', () => {
  const bytes = bytesFromText('{"a":1}');
  it.each([
    [undefined, undefined, 'absent'],
    ['image/png', new Uint8Array(), 'empty'],
    ['image/svg+xml', bytes, 'image'],
    ['application/problem+json; charset=utf-8', bytes, 'json'],
    ['text/html', bytes, 'text'],
    ['application/atom+xml', bytes, 'text'],
    [undefined, bytes, 'json'],
    ['application/octet-stream', bytesFromText('plain words'), 'text'],
    ['application/octet-stream', new Uint8Array([0, 1, 2]), 'binary'],
  ])('%s is shown as %s', (type, body, kind) => expect(bodyKind(type, body)).toBe(kind));
});

describe('decodeText', () => {
  it('goes by byte order mark, then the named charset, then UTF-8', () => {
    expect(decodeText(new Uint8Array([0xff, 0xfe, 0x68, 0, 0x69, 0]), 'text/plain; charset=utf-8')).toBe('hi');
    expect(decodeText(new Uint8Array([0x6d, 0xf1]), 'text/plain; charset="ISO-8859-1"')).toBe('mñ');
    expect(decodeText(bytesFromText('ñ'), 'text/plain; charset=no-such')).toBe('ñ');
  });
});

describe('readPayloadContent', () => {
  const payload = (rest: Partial<Payload>): Payload => ({
    mimeType: undefined,
    recorded: undefined,
    params: undefined,
    ...rest,
  });
  const part = (name: string, value: string) => ({ name, value, fileName: undefined, contentType: undefined });

  it('takes text as UTF-8, unless its recorded length says one byte a character', () => {
    const text = payload({ recorded: { encoding: 'text', text: 'mañana' } });
    expect(readPayloadContent(text, 7)).toEqual({ type: 'bytes', bytes: bytesFromText('mañana') });
    expect(readPayloadContent(text, 6)).toEqual({ type: 'bytes', bytes: Uint8Array.from([109, 97, 241, 97, 110, 97]) });
    expect(readPayloadContent(text, undefined)).toEqual({ type: 'bytes', bytes: bytesFromText('mañana') });
  });

  it('builds a form again from its parameters, and keeps the parts of multipart apart', () => {
    const form = payload({
      mimeType: 'application/x-www-form-urlencoded; charset=UTF-8',
      params: [part('a b', '1&2')],
    });
    expect(readPayloadContent(form, undefined)).toEqual({ type: 'bytes', bytes: bytesFromText('a+b=1%262') });
    const parts = payload({ mimeType: 'multipart/form-data; boundary=x', params: [part('a', 'b')] });
    expect(readPayloadContent(parts, undefined)).toEqual({ type: 'parts', parts: [part('a', 'b')] });
  });

  it('tells an empty payload from one that was not recorded', () => {
    expect(readPayloadContent(payload({ recorded: { encoding: 'text', text: '' } }), 0).type).toBe('bytes');
    expect(readPayloadContent(payload({ recorded: { encoding: 'text', text: '' } }), 900).type).toBe('unrecorded');
    expect(readPayloadContent(payload({}), 900).type).toBe('unrecorded');
  });
});
