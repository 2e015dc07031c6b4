import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { bodyShape, bytesFromText, fileNameOf, languageOf, unfoldValue, whyNoBody } from './index';

const bytes = (hex: string): Uint8Array => Uint8Array.from(Buffer.from(hex.replaceAll(' ', ''), 'hex'));

describe('what a body is shown as', () => {
  it.each([
    ['image/svg+xml', true, '<svg/>', 'image'],
    ['font/woff2', false, '', 'font'],
    ['application/x-font-ttf', false, '', 'font'],
    ['audio/ogg', false, '', 'audio'],
    ['application/pdf', false, '%PDF', 'pdf'],
    ['application/x-www-form-urlencoded', true, 'a=1', 'form'],
    ['multipart/mixed; boundary=x', true, '--x', 'multipart'],
    ['text/event-stream', true, 'data: 1', 'events'],
    ['application/x-ndjson', true, '{}', 'json-lines'],
    ['text/html; charset=utf-8', true, '<p>', 'html'],
    ['application/graphql-response+json', true, '{}', 'json'],
    ['text/javascript', true, 'a()', 'code'],
    ['text/plain', true, '{"a":1}', 'text'],
    [undefined, true, '{"a":1}', 'json'],
    [undefined, true, ")]}'\n[1]", 'json'],
    [undefined, true, '<!DOCTYPE html><p>', 'html'],
    [undefined, true, 'words', 'text'],
  ] as const)('%s is read by its type, or by its text where the type says nothing', (type, isText, head, shape) => {
    expect(bodyShape(type, bytesFromText(head), isText ? 'text' : 'binary')).toBe(shape);
  });

  it.each([
    ['89 50 4e 47 0d 0a 1a 0a', 'image'],
    ['52 49 46 46 00 00 00 00 57 45 42 50', 'image'],
    ['00 00 00 1c 66 74 79 70 61 76 69 66', 'image'],
    ['77 4f 46 32', 'font'],
    ['25 50 44 46 2d', 'pdf'],
    ['49 44 33', 'audio'],
    ['1a 45 df a3', 'video'],
    ['00 00 00 1c 66 74 79 70 6d 70 34 32', 'video'],
    ['00 01 02 03', 'binary'],
  ] as const)('bytes that begin with %s are told by them', (head, shape) => {
    expect(bodyShape('application/octet-stream', bytes(head), 'binary')).toBe(shape);
  });

  it('a type that claims text of bytes that are none is not believed', () => {
    expect(bodyShape('application/json', bytes('00 01'), 'binary')).toBe('binary');
    expect(bodyShape('text/html', bytes('25 50 44 46 2d'), 'binary')).toBe('pdf');
  });

  it.each([
    ['application/xhtml+xml', 'html'],
    ['image/svg+xml', 'xml'],
    ['application/x-yaml', 'yaml'],
    ['text/plain', undefined],
  ])('%s is coloured as %s', (type, language) => expect(languageOf(type)).toBe(language));
});

describe('the name that a body is saved under', () => {
  it.each([
    ['https://a.example/huts/alba.json?x=1', 'application/json', undefined, 'alba.json'],
    ['https://a.example/huts/alba?x=/y', 'application/json; charset=utf-8', undefined, 'alba.json'],
    ['https://a.example/', 'text/html', undefined, 'index.html'],
    ['https://a.example', 'text/html', undefined, 'index.html'],
    ['https://a.example/huts/', 'text/html', undefined, 'huts.html'],
    ['https://a.example/x', 'application/vnd.huts+json', undefined, 'x.json'],
    ['https://a.example/x', undefined, 'attachment; filename="bill \\"2\\".pdf"', 'bill -2-.pdf'],
    ['https://a.example/x', undefined, "attachment; filename*=UTF-8''h%C3%BCtte.pdf; filename=old.pdf", 'hütte.pdf'],
    ['https://a.example/x', undefined, 'attachment; filename="../../etc/passwd"', 'etc-passwd'],
    ['https://a.example/%2e%2e%2f.bashrc', undefined, undefined, 'bashrc'],
    ['https://a.example/a%00b', undefined, undefined, 'a-b'],
  ])('of %s, %s, %s is %s', (url, type, disposition, name) => {
    expect(fileNameOf(url, type, disposition)).toBe(name);
  });
});

describe('a value unfolded', () => {
  it.each([
    ['1759482000', { type: 'instant', at: 1759482000000, unit: 's' }],
    ['1759482000.25', { type: 'instant', at: 1759482000250, unit: 's' }],
    ['1759482000123', { type: 'instant', at: 1759482000123, unit: 'ms' }],
    ['1759482000123456', { type: 'instant', at: 1759482000123.456, unit: 'µs' }],
    ['a%20b%26c', { type: 'url-encoded', text: 'a b&c' }],
    ['eyJmaXJzdCI6MjB9', { type: 'base64', text: '{"first":20}' }],
    ['Y3Vyc29yOjIwMjYtMTAtMDM', { type: 'base64', text: 'cursor:2026-10-03' }],
  ])('%s says %o', (value, unfolded) => expect(unfoldValue(value)).toEqual(unfolded));

  it.each([
    '',
    '20',
    '9999999999',
    '0000000001',
    'https://a.example',
    'alba-norte',
    'deadbeefdeadbeefdeadbeef',
    '100%',
    '%zz',
    'internationalisation',
  ])('%j is a plain value', (value) => expect(unfoldValue(value)).toBeUndefined());
});

describe('a body that is not there', () => {
  it.each([
    [{ status: 204 }, {}, 'never-has-one'],
    [{ status: 200 }, { method: 'HEAD' }, 'never-has-one'],
    [{ status: 302 }, {}, 'redirect'],
    [{ status: 200, content: { size: 40 } }, {}, 'not-saved'],
    [{ status: 200, headers: [{ name: 'Content-Length', value: '9' }] }, {}, 'not-saved'],
    [{ status: 200 }, {}, 'empty-or-not-saved'],
    [{ status: 0 }, {}, 'no-response'],
  ])('%o %o: %s', (response, request, why) => {
    const entry = { request: { method: 'GET', url: 'https://a.example/x', ...request }, response };
    expect(whyNoBody(normaliseEntry(entry as unknown as JsonObject, 0))).toBe(why);
  });
});
