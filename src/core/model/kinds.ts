/** What an exchange fetched, in display order. */
export const KINDS = [
  'document',
  'style',
  'script',
  'font',
  'image',
  'media',
  'data',
  'socket',
  'stream',
  'preflight',
  'report',
  'other',
] as const;
export type Kind = (typeof KINDS)[number];

/** Where a response came from. "cache" is memory or disk, which one unknown; "none" means that no response arrived. */
export const SOURCES = [
  'network',
  'revalidated',
  'cache',
  'memory',
  'disk',
  'worker',
  'pushed',
  'prefetched',
  'none',
  'unknown',
] as const;
export type Source = (typeof SOURCES)[number];

/** Sources whose body bytes did not have to cross the network again. */
const SPARING: ReadonlySet<Source> = new Set<Source>([
  'revalidated',
  'cache',
  'memory',
  'disk',
  'worker',
  'prefetched',
]);

const COPIES: ReadonlySet<Source> = new Set<Source>(['cache', 'memory', 'disk', 'worker']);

/** From a copy, or made up by a worker: nothing of it crosses the network. */
export const isFromCopy = (source: Source): boolean => COPIES.has(source);

/** True where the body was had without fetching it again. */
export const sparesTheNetwork = (source: Source): boolean => SPARING.has(source);

/** First party: same registrable domain as the page's document. */
export const PARTIES = ['first', 'third'] as const;
export type Party = (typeof PARTIES)[number];
