import { formDecoded } from '../http';
import type { Draft } from './draft';
import { mapTexts } from './texts';
import { VARIABLE_MARK, VARIABLE_NAME } from './value';

// The pieces of an address, and names for variables.

/** The pieces of an address: everything before the question mark, and the query's pieces as they stand. */
export function splitQuery(url: string): { readonly base: string; readonly pieces: readonly string[] } {
  // Before the fragment alone (RFC 3986 3.4); drafts have none, but what is typed may.
  const at = url.search(/[?#]/);
  if (url[at] !== '?') return { base: url, pieces: [] };
  return { base: url.slice(0, at), pieces: url.slice(at + 1).split('&') };
}

export const joinQuery = (base: string, pieces: readonly string[]): string =>
  pieces.length === 0 ? base : `${base}?${pieces.join('&')}`;

/** A piece of a query as what it says; what is no percent-encoding stays as it stands. */
export function readPiece(piece: string): { readonly name: string; readonly value: string } {
  const at = piece.indexOf('=');
  return {
    name: formDecoded(at === -1 ? piece : piece.slice(0, at)),
    value: at === -1 ? '' : formDecoded(piece.slice(at + 1)),
  };
}

/** A piece of a query from what it is to say; marks of variables stay marks. */
export function writePiece(name: string, value: string): string {
  const encoded = (text: string): string =>
    encodeURIComponent(text.toWellFormed()).replace(/%E2%80%B9([A-Za-z][A-Za-z0-9_]*)%E2%80%BA/g, '‹$1›');
  return `${encoded(name)}=${encoded(value)}`;
}

/** Gives names for variables: none that another one has, that was given before, or that a text of the draft marks already. */
export function nameGiver(draft: Draft): (wanted: string) => string {
  const taken = new Set(draft.variables.map(({ name }) => name));
  // A mark that was captured is text; a variable of its name would make it another one.
  mapTexts(draft, (text) => {
    for (const [, name = ''] of text.matchAll(VARIABLE_MARK)) taken.add(name);
    return text;
  });
  const counts = new Map<string, number>();
  return (wanted) => {
    const cleaned = wanted
      .replace(/[^A-Za-z0-9]+/g, '_')
      .replace(/^[^A-Za-z]+|_+$/g, '')
      .toLowerCase();
    const base = VARIABLE_NAME.test(cleaned) ? cleaned : 'value';
    let count = counts.get(base) ?? 1;
    let name = count === 1 ? base : `${base}_${count}`;
    while (taken.has(name)) name = `${base}_${++count}`;
    counts.set(base, count);
    taken.add(name);
    return name;
  };
}

/** A name for one variable more. */
export const freeName = (draft: Draft, wanted: string): string => nameGiver(draft)(wanted);
