import { groupBy } from '../collections';
import type { ExchangeRow } from './exchange-row';

/** What a connection was to, and who opened it. */
export interface Connection {
  /** Its hosts, the one it was first used for first: over HTTP/2 one connection may serve several (RFC 9113 9.1.1). */
  readonly hosts: readonly string[];
  /** The exchange that it was set up for; absent where it stood already, or nothing of that was recorded. */
  readonly openedBy: ExchangeRow | undefined;
  readonly exchanges: number;
}

/** The connections of a capture by the recorder's ids. */
export function findConnections(rows: readonly ExchangeRow[]): ReadonlyMap<string, Connection> {
  const members = groupBy(rows, ({ connection }) => connection);
  return new Map([...members].map(([id, own]) => [id, connectionOf(own)]));
}

function connectionOf(rows: readonly ExchangeRow[]): Connection {
  const inOrder = rows.toSorted((a, b) => startOf(a) - startOf(b) || a.index - b.index);
  return {
    hosts: [...new Set(inOrder.map(({ host }) => host))],
    openedBy: inOrder.find(({ phases }) => (phases.connectMs ?? 0) + (phases.tlsMs ?? 0) > 0),
    exchanges: rows.length,
  };
}

const startOf = ({ startedAt }: ExchangeRow): number => startedAt ?? Number.POSITIVE_INFINITY;
