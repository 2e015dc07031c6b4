import { formDecoded } from '../../http';

export type Pair = readonly [name: string, value: string];

/** How a client writes a name or value of a query or form. */
export type PairWriter = (text: string) => string;

/** As the URL Standard serialises forms (5.2): URLSearchParams. */
export const byUrlSearchParams: PairWriter = (text) => new URLSearchParams([[text, '']]).toString().slice(0, -1);

/** As Python's urllib.parse.quote_plus does. */
export const byQuotePlus: PairWriter = (text) =>
  encodeURIComponent(text)
    .replace(/[!'()*]/g, (one) => `%${one.charCodeAt(0).toString(16).toUpperCase()}`)
    .replaceAll('%20', '+');

/** A query or form as pairs, where a client that is given these writes the very same text; undefined elsewhere. */
export function pairsOf(text: string, write: PairWriter): readonly Pair[] | undefined {
  if (text === '') return undefined;
  const pieces = text.split('&').map((piece): Pair | undefined => {
    const at = piece.indexOf('=');
    return at < 1 ? undefined : [formDecoded(piece.slice(0, at)), formDecoded(piece.slice(at + 1))];
  });
  const pairs = pieces.filter((pair) => pair !== undefined);
  if (pairs.length < pieces.length || pairs.some((pair) => pair.some((one) => !one.isWellFormed()))) return undefined;
  return pairs.map((pair) => pair.map(write).join('=')).join('&') === text ? pairs : undefined;
}

/** Whether an object can hold them: no name twice, and none that stands for something else or goes before others. */
export const fitObject = (pairs: readonly Pair[]): boolean =>
  new Set(pairs.map(([name]) => name)).size === pairs.length &&
  !pairs.some(([name]) => name === '__proto__' || /^\d+$/.test(name));
