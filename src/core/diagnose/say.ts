import { type ExchangeRow, nameExchange } from '../analysis';
import type { Kind } from '../model';
import { formatPlural } from '../wording';

/** An exchange in a sentence: its short name. */
export const called = (row: ExchangeRow): string => nameExchange(row).slice(0, 80);

/** One exchange by its name, several as their number: "atlas.js", "31 images". */
export function calledAll(rows: readonly ExchangeRow[]): string {
  const [first] = rows;
  if (rows.length === 1 && first !== undefined) return called(first);
  const kinds = new Set(rows.map(({ kind }) => kind));
  const [kind] = kinds;
  return kinds.size === 1 && kind !== undefined
    ? formatPlural(rows.length, NOUNS[kind])
    : formatPlural(rows.length, 'exchange');
}

/** Several exchanges of one endpoint by one of them: "4 calls like beds", "34 scripts like tap.js". */
export const countLike = (rows: readonly ExchangeRow[], like: ExchangeRow): string =>
  `${formatPlural(rows.length, NOUNS[like.kind])} like ${called(like)}`;

const NOUNS: Record<Kind, string> = {
  document: 'document',
  style: 'style',
  script: 'script',
  font: 'font',
  image: 'image',
  media: 'media file',
  data: 'call',
  socket: 'socket',
  stream: 'stream',
  preflight: 'preflight',
  report: 'report',
  other: 'exchange',
};

export const sum = <T>(items: readonly T[], of: (item: T) => number | undefined): number =>
  items.reduce((total, item) => total + (of(item) ?? 0), 0);

/** The greatest value, 0 where there is none. Captures have more exchanges than a call can have arguments. */
export const most = <T>(items: readonly T[], of: (item: T) => number | undefined): number =>
  items.reduce((greatest, item) => Math.max(greatest, of(item) ?? 0), 0);

/** Exchanges by name and number, the first few: "alba.webp (#3), map.js (#7) and 4 more". */
export function listed(rows: readonly ExchangeRow[], shown = 3): string {
  const names = rows.slice(0, shown).map((row) => `${called(row)} (#${row.index})`);
  return names.length === rows.length ? names.join(', ') : `${names.join(', ')} and ${rows.length - names.length} more`;
}

/** Their numbers as a set, for a change that is played. */
export const those = (rows: readonly ExchangeRow[]): ReadonlySet<ExchangeRow['index']> =>
  new Set(rows.map(({ index }) => index));

/** Numbers of exchanges. */
export const indexes = (rows: readonly ExchangeRow[]): ExchangeRow['index'][] => rows.map(({ index }) => index);
