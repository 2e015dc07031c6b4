import type { Source } from '../../model';
import type { Entry } from '../entry';

/** Where a response can come from. A source without a line does not compile. */
const LINES: Record<Source, readonly [says: string, also: readonly string[]]> = {
  network: ['The whole response came from the server.', ['server', 'not cached', 'why not cached']],
  revalidated: [
    'The browser asked whether its stored copy is still valid and was told 304: headers crossed the network, the body came from the cache.',
    ['304', 'not modified', 'conditional', 'if-none-match'],
  ],
  cache: [
    'The browser’s cache; the recorder did not say whether memory or disk. Nothing crossed the network.',
    ['from cache', 'cached'],
  ],
  memory: ['The browser’s cache in memory. Nothing crossed the network.', ['memory cache', 'from cache', 'cached']],
  disk: ['The browser’s cache on disk. Nothing crossed the network.', ['disk cache', 'from cache', 'cached']],
  worker: [
    'The page’s service worker responded: from its own cache, from the network or by itself.',
    ['service worker', 'serviceworker', 'sw', 'pwa', 'offline'],
  ],
  pushed: [
    'The server sent it before it was asked for (HTTP/2 push, which browsers have given up).',
    ['push', 'h2 push'],
  ],
  prefetched: ['It had been fetched ahead, for a page to come.', ['prefetch', 'preload', 'speculation']],
  none: ['No response: the request failed before one came.', ['failed', 'no response']],
  unknown: ['The capture does not say, and nothing else tells.', []],
};

export const SOURCE_ENTRIES: readonly Entry[] = Object.entries(LINES).map(([name, [says, also]]) => ({
  topic: 'source',
  name,
  says,
  section: 'HAR 1.2 and recorders’ own fields',
  also,
}));
