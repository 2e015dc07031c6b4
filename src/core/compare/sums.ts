import { type ExchangeRow, tally } from '../analysis';
import { setupMs } from '../model';

/** An amount of both loads, unknown where none of its parts is known. */
export interface SumOfBoth {
  readonly of: string;
  readonly unit: 'count' | 'bytes';
  readonly a: number | undefined;
  readonly b: number | undefined;
}

/** Sums beside each other: of everything, and how many exchanges by kind, source and protocol. */
export interface SumsOfBoth {
  readonly whole: readonly SumOfBoth[];
  readonly byKind: readonly SumOfBoth[];
  readonly bySource: readonly SumOfBoth[];
  readonly byProtocol: readonly SumOfBoth[];
}

export function sumsOfBoth(a: readonly ExchangeRow[], b: readonly ExchangeRow[]): SumsOfBoth {
  const [own, other] = [tally(a), tally(b)];
  const opened = (rows: readonly ExchangeRow[]): number =>
    rows.filter(({ phases }) => (setupMs(phases) ?? 0) > 0).length;
  const counts = (keyOf: (row: ExchangeRow) => string): SumOfBoth[] => {
    const keys = [...new Set([...a, ...b].map(keyOf))];
    const count = (rows: readonly ExchangeRow[], key: string): number =>
      rows.filter((row) => keyOf(row) === key).length;
    return keys
      .map((of): SumOfBoth => ({ of, unit: 'count', a: count(a, of), b: count(b, of) }))
      .sort((one, two) => (two.a ?? 0) + (two.b ?? 0) - (one.a ?? 0) - (one.b ?? 0) || (one.of < two.of ? -1 : 1));
  };
  return {
    whole: [
      { of: 'exchanges', unit: 'count', a: own.exchanges, b: other.exchanges },
      { of: 'failed', unit: 'count', a: own.failed, b: other.failed },
      { of: 'on the wire', unit: 'bytes', a: own.wireBytes, b: other.wireBytes },
      { of: 'decoded', unit: 'bytes', a: own.bodyBytes, b: other.bodyBytes },
      { of: 'from cache', unit: 'bytes', a: own.savedBytes, b: other.savedBytes },
      { of: 'connections opened', unit: 'count', a: opened(a), b: opened(b) },
      { of: 'hosts', unit: 'count', a: hostsOf(a), b: hostsOf(b) },
    ],
    byKind: counts(({ kind }) => kind),
    bySource: counts(({ source }) => source),
    byProtocol: counts(({ protocol }) => protocol ?? 'unknown'),
  };
}

const hostsOf = (rows: readonly ExchangeRow[]): number => new Set(rows.map(({ host }) => host)).size;
