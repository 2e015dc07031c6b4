import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { findPackageRoot } from '#server/package-root';
import { LOGO, photo } from './media';
import { bookingPage, homePage, hutPage, thanksPage } from './pages';
import { between } from './random';
import type { Handler, SiteAnswer, SiteRequest } from './types';
import { findHut, makeAtlas } from './world';

// www.cumbrera.example and img.cumbrera.example: pages, styles, scripts, photos.

const LAST_MODIFIED = 'Thu, 01 Oct 2026 08:00:00 GMT';
const etagOf = (body: Buffer | string): string => `"${createHash('sha256').update(body).digest('hex').slice(0, 12)}"`;

/** Answers 304 where the client's copy is still the same (RFC 9110 13.1.2). */
function unlessKept(request: SiteRequest, answer: SiteAnswer & { body: Buffer | string }): SiteAnswer {
  const etag = etagOf(answer.body);
  const headers = { ...answer.headers, etag };
  if (request.headers['if-none-match'] !== etag) return { ...answer, headers };
  const { 'content-type': _type, ...kept } = headers as Record<string, string>;
  return { status: 304, headers: kept, ...(answer.thinkMs === undefined ? {} : { thinkMs: answer.thinkMs }) };
}

const html = (body: string, thinkMs: number): SiteAnswer => ({
  thinkMs,
  compress: true,
  body,
  headers: {
    'content-type': 'text/html; charset=utf-8',
    'cache-control': 'no-cache',
    'server-timing': `page;dur=${thinkMs - 20}`,
  },
});

const TYPES: Readonly<Record<string, string>> = {
  css: 'text/css; charset=utf-8',
  js: 'text/javascript; charset=utf-8',
};

const SHEETS = ['base.9f2c.css', 'grid.css', 'paper.css'] as const;

/** The fixed release sends its three sheets as one, without the imports that made them wait for each other. */
function readFile(name: string): Buffer {
  const read = (file: string): Buffer => readFileSync(join(findPackageRoot(), 'demo/site/files', file));
  if (name !== 'all.77d0.css') return read(name);
  return Buffer.from(
    SHEETS.map((sheet) =>
      read(sheet)
        .toString()
        .replace(/@import .*\n/, ''),
    ).join('\n'),
  );
}

function answerFile(request: SiteRequest, name: string): SiteAnswer {
  const type = TYPES[name.split('.').at(-1) ?? ''];
  let body: Buffer;
  try {
    body = readFile(name);
  } catch {
    return { status: 404, body: 'no such file' };
  }
  const isFixed = request.release === 'fixed';
  const cacheControl = isFixed
    ? 'public, max-age=31536000, immutable'
    : name.endsWith('.css')
      ? 'no-cache'
      : 'max-age=0';
  const headers = {
    'content-type': type ?? 'text/plain',
    'cache-control': cacheControl,
    'last-modified': LAST_MODIFIED,
  };
  return unlessKept(request, { thinkMs: 18, compress: true, body, headers });
}

const ATLAS = { first: 2100, fixed: 220 } as const;
const atlases = new Map<string, string>();

/** The dictionary of trails: one large script, uncompressed and never kept in the first release. */
function answerAtlas(request: SiteRequest): SiteAnswer {
  const { release } = request;
  const body = atlases.get(release) ?? `window.atlas = ${JSON.stringify(makeAtlas(ATLAS[release]), null, 1)};\n`;
  atlases.set(release, body);
  const headers = { 'content-type': 'text/javascript; charset=utf-8' };
  if (release === 'first')
    return { thinkMs: 52, sendMs: 160, body, headers: { ...headers, 'cache-control': 'no-store' } };
  const kept = { ...headers, 'cache-control': 'public, max-age=31536000, immutable' };
  return unlessKept(request, { thinkMs: 25, compress: true, body, headers: kept });
}

const LANGUAGES = ['en', 'es', 'de'] as const;

function answerWords(request: SiteRequest, language: string): SiteAnswer {
  if (!LANGUAGES.some((known) => known === language)) return { status: 404, body: 'no such language' };
  const words = ['beds', 'night', 'stove', 'ridge', 'warden', 'spring', 'lamp', 'bread'];
  const entries = Array.from({ length: 160 }, (_, at) => [
    `${words[at % 8]}-${at}`,
    `${words[(at * 5) % 8]} (${language} ${at})`,
  ]);
  const body = `export default ${JSON.stringify(Object.fromEntries(entries))};\n`;
  const headers = {
    'content-type': 'text/javascript; charset=utf-8',
    'cache-control': 'max-age=60',
    'last-modified': LAST_MODIFIED,
  };
  return unlessKept(request, { thinkMs: 15, compress: true, body, headers });
}

export const answerWeb: Handler = (request) => {
  const { path, release } = request;
  if (path === '/') return html(homePage(release), 60);
  if (path === '/hut/alba-norte')
    return { status: 302, thinkMs: 25, headers: { location: '/huts/alba-norte', 'cache-control': 'no-store' } };
  const hut = findHut(/^\/huts\/([a-z-]+)$/.exec(path)?.[1] ?? '');
  if (hut !== undefined) return html(hutPage(hut, release), release === 'first' ? 140 : 60);
  if (path === '/book/alba-norte' && request.method === 'POST') {
    return { status: 303, thinkMs: 90, headers: { location: '/book/thanks' } };
  }
  if (path === '/book/alba-norte') return html(bookingPage(), 70);
  if (path === '/book/thanks') return html(thanksPage(), 40);
  if (path === '/assets/atlas.41ab.js') return answerAtlas(request);
  const words = /^\/assets\/js\/words-([a-z]+)\.js$/.exec(path)?.[1];
  if (words !== undefined) return answerWords(request, words);
  const file = /^\/assets\/((?:js\/)?[a-z0-9.-]+\.(?:css|js))$/.exec(path)?.[1];
  if (file !== undefined && !file.includes('..')) return answerFile(request, file);
  if (path === '/logo.svg') {
    const headers = { 'content-type': 'image/svg+xml', 'cache-control': 'public, max-age=604800' };
    return unlessKept(request, { thinkMs: 12, compress: true, body: LOGO, headers });
  }
  return { status: 404, body: 'There is no such page on this ridge.', thinkMs: 20 };
};

/** Photos: those of huts by name and width; a 404 for one that was taken down. */
export const answerPhotos: Handler = async (request) => {
  const match = /^\/photos\/([a-z-]+)-(\d+)\.webp$/.exec(request.path);
  if (match === null || request.path.includes('-lost-'))
    return { status: 404, thinkMs: 60, body: 'The photo was taken down.' };
  const width = Math.min(1600, Number(match[2]));
  const isHero = width > 1000;
  const isFirst = request.release === 'first';
  const body = await photo(match[1] ?? '', width, isHero ? 74 : 80);
  const headers = { 'content-type': 'image/webp', 'cache-control': isFirst ? 'no-cache' : 'public, max-age=2592000' };
  return unlessKept(request, {
    thinkMs: isFirst ? between(request.path, 180, 280) : 24,
    ...(isHero && isFirst ? { sendMs: 620 } : {}),
    body,
    headers,
  });
};
