import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { type Browser, chromium, type Page } from '@playwright/test';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { permissionSeconds } from '#core/cache';
import { encodingOf, fileNameOf, readEvents, readServerTiming } from '#core/content';
import { chromiumOptions } from '../../e2e/support/chromium';

// What is read from headers and streams is what a real browser makes of them.

let browser: Browser;
let page: Page;
let server: Server;
let origin: string;
let headers: Readonly<Record<string, string>> = {};
let body: string | Buffer = '';
let asked = 0;
beforeAll(async () => {
  server = createServer((request, response) => {
    if (request.url === '/') response.writeHead(200, { 'content-type': 'text/html' }).end('<!doctype html>');
    else response.writeHead(200, headers).end(body);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  browser = await chromium.launch(chromiumOptions);
  page = await browser.newPage();
  await page.goto(`${origin}/`);
});
afterAll(async () => {
  await browser.close();
  server.close();
});

describe('Server-Timing', () => {
  it.each([
    ...['db;dur=48.8;desc="beds", cache', 'db', 'db;dur=1;dur=2', 'db;desc=a;desc=b', 'db; dur = 5 ; desc = "x y"'],
    ...['db;dur="5"', 'db;dur=abc', 'db;dur', 'db;dur=', 'db;desc=', 'db;desc=""', 'db;desc="a,b;c"', 'db;dur =5'],
    ...[
      'db;desc="a\\"b"',
      'db;desc="a\\\\b"',
      'db;desc="a',
      "db;desc='x'",
      'db;DUR=5;Desc=y',
      'db;dur=-5',
      'db;dur=1e3',
    ],
    ...[
      'db;dur=0x10',
      'db;dur=5ms',
      'db;dur=5 6',
      '"db";dur=5',
      'a b;dur=5',
      ';dur=5',
      'db;foo="a;dur=7";dur=5',
      'db=5',
    ],
    ...['db;desc=a b', 'db;desc=a"b"', 'db;dur=5,db;dur=6', 'db;desc="\\q"', 'db;dur=+5', 'db;dur=.5', 'db;dur=5.'],
    ...['db;dur=Infinity', 'db;desc="x" y;dur=5', 'cdn-cache; desc=HIT, edge; dur=1', ' db ', 'db;dur=5;'],
  ])('%s', async (value) => {
    headers = { 'server-timing': value };
    const read = await page.evaluate(async (address) => {
      performance.clearResourceTimings();
      await (await fetch(address)).text();
      for (;;) {
        const [entry] = performance.getEntriesByName(address) as PerformanceResourceTiming[];
        const metrics = entry?.serverTiming.map(({ name, duration, description }) => [name, duration, description]);
        if (metrics !== undefined) return metrics;
        await new Promise((resolve) => setTimeout(resolve, 5));
      }
    }, `${origin}/${++asked}`);
    const own = readServerTiming([value]);
    expect(own.map(({ name, durationMs = 0, description = '' }) => [name, durationMs, description])).toEqual(read);
  });
});

describe('the file name of Content-Disposition', () => {
  it.each([
    ...['filename=a.txt', 'filename="a b.txt"', "filename*=UTF-8''%C3%BC.txt", 'filename=%C3%BC.txt', 'FILENAME=a.txt'],
    ...[
      `filename="x.txt"; filename*=UTF-8''%C3%BC.txt`,
      "filename*=UTF-8'en'%C3%BC.txt; filename=x.txt",
      'filename=a b.txt',
    ],
    ...["filename*=iso-8859-1''%FC.txt", 'filename="a;b.txt"', 'filename= "a.txt"', 'filename =a.txt', 'filename=""'],
    ...[
      'filename=a.txt; filename=b.txt',
      'x=1; filename=a.txt',
      'filename="report 50%.csv"',
      "filename*=UTF-8''50%25.csv",
    ],
    ...[
      "filename*=UTF-8''%2541.txt",
      'name="n.txt"',
      'filename="a.txt"; size=5',
      'x="filename=x.txt"; filename="a.txt"',
    ],
  ])('%s', async (parameters) => {
    headers = { 'content-type': 'application/octet-stream', 'content-disposition': `attachment; ${parameters}` };
    const address = `${origin}/${++asked}.bin`;
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.evaluate((href) => Object.assign(document.createElement('a'), { href }).click(), address),
    ]);
    const own = fileNameOf(address, headers['content-type'], headers['content-disposition']);
    expect(own).toBe(download.suggestedFilename());
  });
});

describe('the encoding of a page', () => {
  const pages = [
    ...[
      '',
      '<meta charset=iso-8859-2>',
      '<meta charset="windows-1251">',
      "<meta charset='KOI8-R'>",
      '<meta charset=utf-16>',
    ],
    '<meta http-equiv="Content-Type" content="text/html; charset=iso-8859-15">',
    '<META CONTENT="text/html; charset=windows-1250" HTTP-EQUIV=content-type>',
    ...['<!-- <meta charset=iso-8859-2> -->', '<meta name=x content="charset=iso-8859-2">', '<meta charset=utf8>'],
    ...['<meta charset=nonsense><meta charset=iso-8859-2>', '<title><meta charset=iso-8859-2></title>'],
    ...['<script>"<meta charset=iso-8859-2>"</script>', '<meta charset = iso-8859-2 >', '<meta charset=latin1>'],
    ...[
      '<meta data-charset=iso-8859-2>',
      `${' '.repeat(1100)}<meta charset=iso-8859-2>`,
      '<meta charset=x-user-defined>',
    ],
    ...['\xef\xbb\xbf<meta charset=iso-8859-2>', '<?xml version="1.0" encoding="iso-8859-2"?>'],
    ...['<a href="x?charset=iso-8859-2">', '<META  name=a\ncharset=iso-8859-2>'],
  ].map((start) => Buffer.from(`${start}<p>ü ñ é`, 'latin1'));
  it.each([
    ...['text/html', 'text/html; charset=utf-8', 'text/html; charset=iso-8859-1', 'text/html;charset="windows-1250"'],
    ...[
      'text/html; charset=nonsense',
      "text/html; charset='iso-8859-2'",
      'TEXT/HTML; CHARSET=ISO-8859-15',
      'text/html; charset=',
    ],
  ])('sent as %s', async (type) => {
    headers = { 'content-type': type };
    for (const bytes of pages) {
      body = bytes;
      await page.goto(`${origin}/${++asked}`);
      const read = await page.evaluate(() => document.characterSet.toLowerCase());
      expect({ text: bytes.toString('latin1').trim(), encoding: encodingOf(bytes, type) }).toEqual({
        text: bytes.toString('latin1').trim(),
        encoding: read,
      });
    }
    body = '';
    await page.goto(`${origin}/`);
  });
});

it('a preflight is asked again at once where its permission is not kept', async () => {
  const values = ['0', '-1', '-0', '+0', 'abc', '', '60', ' 60 ', '60s', '1.5', '99999999999'];
  const preflights = values.map(() => 0);
  const other = createServer(({ method, url = '' }, response) => {
    const at = Number(url.slice(1));
    if (method === 'OPTIONS') preflights[at] = (preflights[at] ?? 0) + 1;
    const leave = { 'access-control-allow-origin': '*', 'access-control-allow-methods': 'PUT' };
    response.writeHead(200, { ...leave, 'access-control-max-age': values[at] ?? '' }).end();
  });
  await new Promise<void>((resolve) => other.listen(0, '127.0.0.1', resolve));
  const elsewhere = `http://127.0.0.1:${(other.address() as AddressInfo).port}`;
  for (let round = 0; round < 2; round++)
    await page.evaluate(
      (addresses) => Promise.all(addresses.map((address) => fetch(address, { method: 'PUT' }))),
      values.map((_, at) => `${elsewhere}/${at}`),
    );
  other.close();
  expect(preflights).toEqual(values.map((value) => (permissionSeconds(value) === 0 ? 2 : 1)));
});

it('an event stream has the events that the browser tells of', async () => {
  const lines = fc.constantFrom(
    ...['data: a', 'data:b', 'data', 'data:', 'data:  c', 'event: x', 'event:', 'event', 'id: 1', 'id', 'id: a\0b'],
    ...[': note', ':', 'retry: 10', 'other: y', '', '', 'Data: z', ' data: q', 'data: ü', 'event: data'],
  );
  const stream = fc
    .array(fc.tuple(lines, fc.constantFrom('\n', '\r\n', '\r')), { maxLength: 14 })
    .map((pairs) => pairs.flat().join(''));
  headers = { 'content-type': 'text/event-stream' };
  for (const text of fc.sample(stream, { numRuns: 150, seed: 5 })) {
    body = text;
    const told = await page.evaluate(
      (address) =>
        new Promise<string[][]>((resolve) => {
          const events: string[][] = [];
          const source = new EventSource(address);
          for (const type of ['message', 'x', 'data'])
            source.addEventListener(type, (event) => events.push([event.type, event.lastEventId, event.data]));
          source.onerror = () => {
            source.close();
            resolve(events);
          };
        }),
      `${origin}/${++asked}`,
    );
    const own = readEvents(text).map(({ event, id = '', data }) => JSON.stringify([event || 'message', id, data]));
    // Events without data are shown as well, and a last one that was cut off: a browser tells of neither.
    let at = 0;
    const isInOrder = told.every((event) => {
      at = own.indexOf(JSON.stringify(event), at) + 1;
      return at > 0;
    });
    expect(isInOrder, JSON.stringify({ text, told, own })).toBe(true);
  }
  body = '';
});
