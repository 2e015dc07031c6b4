import { execFile } from 'node:child_process';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EMPTY_DRAFT } from '../convert';
import { describeNeeding } from '../convert/testing/tools';
import { cookieChanges, readSheet, type Sheet, withCookies } from './index';

describe('cookies put on a sheet', () => {
  const sheet = (text: string): Sheet => ({ text, layout: 'plain', attachments: [] });
  const set = [
    { name: 'sid', value: 'b=' },
    { name: 'new', value: '1' },
  ];
  it.each([
    ['GET https://a.example\n\nCookie: x=1; sid=a; y', 'Cookie: x=1; sid=b=; y; new=1'],
    ['GET https://a.example\n\n✗ cookie: sid=a', 'cookie: sid=b=; new=1'],
    ['GET https://a.example\n\nA: b', 'Cookie: sid=b=; new=1'],
    ['POST https://a.example\n\n\nbody', 'Cookie: sid=b=; new=1'],
    ['GET https://a.example', 'Cookie: sid=b=; new=1'],
    ['GET https://a.example\n\nCookie: gone=1; x=1; gone = 2; gone2=3', 'Cookie: x=1; gone2=3; sid=b=; new=1'],
  ])('%j', (text, line) => {
    const before = readSheet(sheet(text), EMPTY_DRAFT).draft;
    const after = withCookies(sheet(text), { set, ended: ['gone'] });
    expect(after.text.split('\n')).toContain(line);
    const { draft, problems } = readSheet(after, EMPTY_DRAFT);
    expect(problems).toEqual([]);
    expect(draft).toMatchObject({ url: before.url, payload: before.payload });
    expect(draft.headers.filter(({ name }) => name === 'A')).toHaveLength(text.includes('A: b') ? 1 : 0);
  });

  it('takes the line away with the last of its cookies, and adds none for cookies that end', () => {
    const of = (text: string): string => withCookies(sheet(text), { set: [], ended: ['sid'] }).text;
    expect(of('GET https://a.example\n\nCookie: sid=a\nA: b')).toBe('GET https://a.example\n\nA: b');
    expect(of('GET https://a.example\n\nA: b')).toBe('GET https://a.example\n\nA: b');
  });
});

// Held against what the real curl sends next, which keeps cookies of its own: as browsers do, but for a path's last slash.
describeNeeding(['curl'])('cookies that were set', () => {
  let lines: readonly string[] = [];
  let sent: string | undefined;
  let server: Server;
  beforeAll(async () => {
    server = createServer(({ url, headers }, response) => {
      if (url?.includes('?set') === true) response.setHeader('set-cookie', lines);
      else sent = headers.cookie;
      response.end();
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  });
  afterAll(() => server.close());

  it.each([
    [['sid=b1; Path=/']],
    [['sid=b1']],
    [['sid=b1; Path=/huts']],
    [['sid=b1; Path=/hut']],
    [['sid=b1; Path=/other']],
    [['sid=b1; Path=huts']],
    [['sid=b1; Domain=other.example']],
    [['sid=b1; HttpOnly; SameSite=Strict']],
    [[' sid = b 1 ; path=/']],
    [['sid="b1"']],
    [['sid=a; Path=/', 'lang=ca; Path=/', 'sid=b; Path=/']],
    [['old=1; Max-Age=0']],
    [['old=1; Max-Age=-1']],
    [['old=1; Max-Age=60']],
    [['old=1; Max-Age=60; Expires=Thu, 01 Jan 1970 00:00:00 GMT']],
    [['old=1; Expires=Thu, 01 Jan 1970 00:00:00 GMT; Max-Age=60']],
    [['old=; Expires=Thu, 01-Jan-1970 00:00:01 GMT; Path=/']],
    [['old=; expires=Wed, 01 Jan 2070 00:00:00 GMT']],
    [['new=1', 'old=; Max-Age=0', 'old=2']],
    [['old=2', 'old=; Max-Age=0', 'empty=; Path=/']],
    [['__Host-sid=1; Path=/']],
    [['__Secure-sid=1']],
    [['=nameless', 'lang=ca']],
    [['lang=ca;;;  ; Path=/']],
  ])('%j', async (set) => {
    lines = set;
    sent = undefined;
    const here = `http://127.0.0.1:${(server.address() as AddressInfo).port}/huts/7`;
    await promisify(execFile)('curl', ['-s', '-b', '', `${here}?set`, here]);
    const { set: kept } = cookieChanges(lines, `${here}?set`, Date.now());
    const pairs = (text: string): string[] => text.split('; ').filter(Boolean).sort();
    expect(kept.map(({ name, value }) => `${name}=${value}`).sort()).toEqual(pairs(sent ?? ''));
  });

  it('tells those that end apart from those that are not kept', () => {
    const of = (...all: string[]) => cookieChanges(all, 'https://www.cumbrera.example/huts/7', 0);
    expect(of('a=1; Max-Age=0', 'b=; Expires=Thu, 01 Jan 1970 00:00:00 GMT').ended).toEqual(['a', 'b']);
    expect(of('a=1; Max-Age=0; Path=/other', 'b=1; Max-Age=0; Domain=other.example').ended).toEqual([]);
    expect(of('a=1; Max-Age=0', 'a=2')).toEqual({ set: [{ name: 'a', value: '2' }], ended: [] });
    expect(of('a=1', 'a=; Max-Age=0')).toEqual({ set: [], ended: ['a'] });
    expect(of('a=1; Secure', '__Host-b=1; Secure; Path=/').set).toHaveLength(2);
  });
});
