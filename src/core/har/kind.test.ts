import { describe, expect, it } from 'vitest';
import { classifyKind, essence, type KindClues } from './kind';

const kindOf = (clues: Partial<KindClues>): string =>
  classifyKind({
    resourceType: undefined,
    method: 'GET',
    url: 'https://x.example/a',
    requestHeaders: [],
    mimeType: undefined,
    ...clues,
  }).value;

const header = (name: string, value: string) => ({ requestHeaders: [{ name, value }] });

describe('classifyKind', () => {
  it.each<[string, Partial<KindClues>, string]>([
    [
      "a preflight by its own header, before the recorder's type",
      { method: 'OPTIONS', resourceType: 'fetch', ...header('Access-Control-Request-Method', 'PUT') },
      'preflight',
    ],
    ['a plain OPTIONS call as what the recorder says', { method: 'OPTIONS', resourceType: 'fetch' }, 'data'],
    ['a socket by its scheme', { url: 'wss://live.cumbrera.example/beds', resourceType: 'other' }, 'socket'],
    ['a socket by Upgrade', header('upgrade', 'WebSocket'), 'socket'],
    ['a stream by its MIME type', { mimeType: 'text/event-stream; charset=utf-8', resourceType: 'fetch' }, 'stream'],
    ["the recorder's type before the MIME type", { resourceType: 'xhr', mimeType: 'text/html' }, 'data'],
    [
      "an unknown recorder's type by what comes next",
      { resourceType: 'other', ...header('Sec-Fetch-Dest', 'font') },
      'font',
    ],
    ['fetch metadata before the MIME type', { ...header('sec-fetch-dest', 'image'), mimeType: 'text/html' }, 'image'],
    ['an empty destination as data', header('sec-fetch-dest', 'empty'), 'data'],
    ['Accept of a page', header('accept', 'text/html,application/xhtml+xml'), 'document'],
    ['the MIME type', { mimeType: 'application/problem+json' }, 'data'],
    ['the extension at last', { url: 'https://x.example/p/photo.webp?w=3' }, 'image'],
    ['what says nothing', {}, 'other'],
  ])('takes %s', (_name, clues, kind) => {
    expect(kindOf(clues)).toBe(kind);
  });
});

describe('essence', () => {
  it("is the type without parameters in lower case; a recorder's x-unknown is none", () => {
    expect(essence('Text/HTML; charset=utf-8')).toBe('text/html');
    expect(essence('x-unknown')).toBeUndefined();
    expect(essence('')).toBeUndefined();
  });
});
