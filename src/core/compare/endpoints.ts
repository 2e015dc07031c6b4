import type { ExchangeRow } from '../analysis';
import { addTo } from '../collections';
import { type HostMap, hostIn } from './hosts';

/**
 * Endpoints that hold on both sides: what varies in a path is known from a capture alone, so that of one address one side
 * may call "/huts/{}" what the other, which had but one of them, calls "/huts/alba". The more general name counts.
 */
export class CommonEndpoints {
  readonly #map: HostMap;
  /** Patterns with something that varies, by what they must share with an endpoint to be its own. */
  readonly #patterns = new Map<string, Pattern[]>();
  readonly #known = new Map<string, string>();

  constructor(rows: Iterable<ExchangeRow>, map: HostMap) {
    this.#map = map;
    const seen = new Set<string>();
    for (const row of rows) {
      const name = this.#nameOf(row);
      if (seen.has(name) || !name.includes('{}')) continue;
      seen.add(name);
      const segments = name.split('/');
      addTo(this.#patterns, frameOf(segments), { name, segments, open: segments.filter(isOpen).length });
    }
    for (const own of this.#patterns.values()) own.sort((a, b) => b.open - a.open || (a.name < b.name ? -1 : 1));
  }

  /** The endpoint of an exchange, and its kind: a page and a call at one address are not taken for one another. */
  of(row: ExchangeRow): string {
    const name = this.#nameOf(row);
    let known = this.#known.get(name);
    if (known === undefined) {
      const segments = name.split('/');
      known =
        this.#patterns.get(frameOf(segments))?.find((pattern) => covers(pattern.segments, segments))?.name ?? name;
      this.#known.set(name, known);
    }
    return known;
  }

  #nameOf({ endpoint, operation }: ExchangeRow): string {
    const [, method = '', authority = '', rest = endpoint] = /^(\S+ )([^/ ]+)(\/.*)$/s.exec(endpoint) ?? [];
    const mapped = `${method}${hostIn(authority, this.#map)}${rest}`;
    return operation === undefined || mapped.endsWith(operation) ? mapped : `${mapped} ${operation}`;
  }
}

interface Pattern {
  readonly name: string;
  readonly segments: readonly string[];
  readonly open: number;
}

const isOpen = (segment: string): boolean => segment.startsWith('{}');

/** Method, host and number of segments. */
const frameOf = (segments: readonly string[]): string => `${segments[0]} ${segments.length}`;

const covers = (pattern: readonly string[], segments: readonly string[]): boolean =>
  pattern.every((one, at) => {
    const segment = segments[at] ?? '';
    return one === segment || (isOpen(one) && segment.endsWith(one.slice(2)) && segment !== '');
  });
