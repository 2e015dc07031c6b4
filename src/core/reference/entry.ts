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

/** What is explained, in the order in which the reference lists it. */
export const TOPICS = [
  'phase',
  'milestone',
  'word used here',
  'source',
  'status',
  'method',
  'header',
  'cache directive',
  'caching',
  'cross-origin',
  'cookie attribute',
  'token claim',
  'network error',
  'close code',
  'protocol',
  'coding',
  'Cache-Status value',
] as const;
export type Topic = (typeof TOPICS)[number];

/** Something explained in our own words, with where its standard says so, or where it is met here. */
export interface Entry {
  readonly topic: Topic;
  readonly name: string;
  readonly says: string;
  readonly section: string;
  /** Other names and words under which it is looked for. */
  readonly also?: readonly string[];
}

type Line = readonly [name: string, says: string, section: string, also?: readonly string[]];

/** Entries of one topic. */
export const explain = (topic: Topic, lines: readonly Line[]): readonly Entry[] =>
  lines.map(([name, says, section, also]) => ({ topic, name, says, section, ...(also === undefined ? {} : { also }) }));
