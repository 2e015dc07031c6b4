import { mannerOfRelation } from './html';
import type { Tell } from './named';

/** Relations for which browsers load what is named (WHATWG HTML 4.6.7). */
const LOADED = new Set(['preload', 'modulepreload', 'stylesheet', 'icon', 'prefetch', 'manifest']);

/** A parameter: a semicolon, a name, and a value that may stand in quotes (RFC 8288 3, link-param). */
const PARAMETER = /\s*;\s*([^\s=;,"<]+)\s*(?:=\s*(?:"([^"]*)"|([^\s;,"]*)))?/y;

/** The addresses of a Link header (RFC 8288 3), which browsers load for preload, modulepreload, stylesheet and the like. */
export function linksInHeader(value: string, tell: Tell): void {
  // No "<" may stand in an address (RFC 3986 2): a run of them is walked through once.
  for (const match of value.matchAll(/<([^<>]*)>/g)) {
    const relations = relationsOf(value, match.index + match[0].length);
    if (!relations.split(/\s+/).some((relation) => LOADED.has(relation))) continue;
    tell({ type: 'link', url: match[1] ?? '', base: 'self', manner: mannerOfRelation(relations) });
  }
}

/** The relations that the parameters from a place on name, in small letters; the first `rel` counts. */
function relationsOf(value: string, from: number): string {
  PARAMETER.lastIndex = from;
  for (let match = PARAMETER.exec(value); match !== null; match = PARAMETER.exec(value)) {
    const [, name = '', quoted, plain] = match;
    if (name.toLowerCase() === 'rel') return (quoted ?? plain ?? '').toLowerCase();
  }
  return '';
}
