/** What headers are for, in the order in which they are shown. "own" are those of the application itself. */
export const HEADER_GROUPS = [
  'content',
  'caching',
  'credentials',
  'cross-origin',
  'service',
  'connection',
  'browser',
  'hints',
  'own',
] as const;
export type HeaderGroup = (typeof HEADER_GROUPS)[number];

/** Something explained in our own words, with where its standard says so. */
export interface Entry {
  readonly topic: 'header' | 'status' | 'cache directive' | 'method';
  readonly name: string;
  readonly says: string;
  readonly section: string;
}
