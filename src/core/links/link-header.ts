import type { Tell } from './named';

/** The addresses of a Link header (RFC 8288 3), which browsers load for preload, modulepreload, stylesheet and the like. */
export function linksInHeader(value: string, tell: Tell): void {
  for (const match of value.matchAll(/<([^>]*)>((?:\s*;\s*[^,;"]+(?:"[^"]*")?)*)/g)) {
    const [, url = '', parameters = ''] = match;
    if (/rel\s*=\s*"?[^";]*\b(preload|modulepreload|stylesheet|icon|prefetch|manifest)\b/i.test(parameters)) {
      tell({ type: 'link', url, base: 'self' });
    }
  }
}
