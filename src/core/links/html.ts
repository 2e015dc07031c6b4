import { Parser } from 'htmlparser2';
import { linksInCss } from './css';
import { linksInJson } from './json';
import type { Demand, Manner, Tell } from './named';
import { linksInScript } from './script';

/** Attributes that make a browser load what they name (WHATWG HTML, attributes index), by element; "*" for any. */
const LOADING: Readonly<Record<string, readonly string[]>> = {
  '*': ['src', 'poster', 'background'],
  link: ['href'],
  object: ['data'],
  image: ['href', 'xlink:href'],
  use: ['href', 'xlink:href'],
  feimage: ['href', 'xlink:href'],
  form: ['action'],
  a: ['href'],
};

/** Pages lie no deeper in one another than somebody writes them: each is read once more with what it lies in. */
const MOST_DEPTH = 3;

/**
 * The addresses that a page names, and the base that its relative ones are resolved against, where it sets one.
 * @param depth of pages that it lies in
 */
export function linksInHtml(text: string, tell: Tell, depth = 0): { readonly base: string | undefined } {
  let base: string | undefined;
  let raw: { readonly element: 'script' | 'style'; readonly type: string; readonly parts: string[] } | undefined;
  const link = (url: string, manner?: Manner, demand?: Demand): void => {
    if (url.trim() !== '') tell({ type: 'link', url: url.trim(), base: 'page', manner, demand });
  };
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        if (name === 'base' && attributes['href'] !== undefined) base ??= attributes['href'];
        if (name === 'script' || name === 'style') raw = { element: name, type: attributes['type'] ?? '', parts: [] };
        if (name === 'meta' && /^refresh$/i.test(attributes['http-equiv'] ?? '')) {
          link(/url\s*=\s*['"]?([^'"]*)/i.exec(attributes['content'] ?? '')?.[1] ?? '');
        }
        const manner = mannerOf(name, attributes);
        const demand = demandOf(name, attributes);
        for (const attribute of [
          ...(LOADING['*'] ?? []),
          ...(Object.hasOwn(LOADING, name) ? (LOADING[name] ?? []) : []),
        ]) {
          const value = attributes[attribute];
          if (value !== undefined) link(value, manner, demand);
        }
        for (const attribute of ['srcset', 'imagesrcset']) {
          for (const url of candidatesOf(attributes[attribute] ?? '')) link(url, manner);
        }
        for (const [attribute, value] of Object.entries(attributes)) {
          if (attribute === 'style') linksInCss(value, tell, 'page');
          // A page inside the page, whose addresses are resolved against the base of this one (WHATWG HTML 4.8.5).
          else if (attribute === 'srcdoc' && depth < MOST_DEPTH) linksInHtml(value, tell, depth + 1);
          else if (attribute.startsWith('data-')) tell({ type: 'quoted', text: value });
        }
      },
      ontext(part) {
        raw?.parts.push(part);
      },
      onclosetag(name) {
        if (raw === undefined || name !== raw.element) return;
        const content = raw.parts.join('');
        if (raw.element === 'style') linksInCss(content, tell, 'page');
        else if (/json|importmap/i.test(raw.type)) linksInJson(content, tell);
        else linksInScript(content, tell, 'page');
        raw = undefined;
      },
    },
    { decodeEntities: true, lowerCaseTags: true, lowerCaseAttributeNames: true },
  );
  parser.write(text);
  parser.end();
  return { base };
}

/** How an element has its address loaded, where that bears on what the load waits for. */
function mannerOf(element: string, attributes: Readonly<Record<string, string>>): Manner | undefined {
  if (/^lazy$/i.test(attributes['loading'] ?? '')) return 'lazy';
  if (element === 'script') return attributes['async'] === undefined ? 'parsed' : 'async';
  return element === 'link' ? mannerOfRelation(attributes['rel'] ?? '') : undefined;
}

/** What an element demands, where it is one of those that can (Subresource Integrity 3.6). */
function demandOf(element: string, attributes: Readonly<Record<string, string>>): Demand | undefined {
  const { integrity, crossorigin, rel = '', type = '' } = attributes;
  const isModule = /\bmodulepreload\b/i.test(rel) || (element === 'script' && /^\s*module\s*$/i.test(type));
  const canDemand = element === 'script' || (element === 'link' && /\b(?:stylesheet|(?:module)?preload)\b/i.test(rel));
  return integrity === undefined || !canDemand
    ? undefined
    : { integrity, isByCors: isModule || crossorigin !== undefined };
}

const OF_RELATION: readonly (readonly [RegExp, Manner])[] = [
  [/\bstylesheet\b/i, 'parsed'],
  [/\bicon\b|apple-touch-icon|\bmanifest\b/i, 'icon'],
  [/\bprefetch\b/i, 'prefetch'],
  [/\b(module)?preload\b/i, 'preload'],
];

/** The same of a link's relations (WHATWG HTML 4.6.7). */
export const mannerOfRelation = (relations: string): Manner | undefined =>
  OF_RELATION.find(([pattern]) => pattern.test(relations))?.[1];

/** The addresses of a srcset (WHATWG HTML 4.8.4.2.1): each ends at white space, or at the comma that closes it. */
export function candidatesOf(srcset: string): string[] {
  const urls: string[] = [];
  const pattern = /[\s,]*(\S+)/y;
  for (let at = 0; at < srcset.length; ) {
    pattern.lastIndex = at;
    const match = pattern.exec(srcset);
    if (match === null) break;
    const url = match[1] ?? '';
    at = pattern.lastIndex;
    if (url.endsWith(',')) {
      urls.push(url.replace(/,+$/, ''));
      continue;
    }
    urls.push(url);
    // Descriptors, up to the next comma outside of brackets.
    const rest = /^[^,(]*(?:\([^)]*\)[^,(]*)*/.exec(srcset.slice(at))?.[0] ?? '';
    at += rest.length + 1;
  }
  return urls;
}
