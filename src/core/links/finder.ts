import { addTo } from '../collections';
import type { Shape } from '../content';
import type { ExchangeIndex, Kind } from '../model';
import { CLOCK_RESOLUTION_MS } from '../timing';
import type { BodyLinks, KnownBodies } from './body-links';
import { linksInCss } from './css';
import { linksInHtml } from './html';
import { linksInJson } from './json';
import { linksInHeader } from './link-header';
import { MANNERS, type Manner, type Named } from './named';
import { Prefixes } from './prefixes';
import { linksInScript } from './script';

/** What a page demands of an exchange's bytes. */
export interface MetDemand {
  readonly integrity: string;
  /** They are another origin's, and not asked for by CORS: no page may know their digest (Fetch 4.1). */
  readonly isOpaque: boolean;
}

/** An exchange that something may have named. Times in ms on one clock; unknown where it never was answered. */
export interface LinkTarget {
  readonly index: ExchangeIndex;
  readonly page: string | undefined;
  readonly url: string;
  readonly kind: Kind;
  readonly startMs: number | undefined;
  readonly answeredMs: number | undefined;
}

/** An exchange whose body is searched for addresses. */
export interface Carrier {
  readonly index: ExchangeIndex;
  readonly shape: Shape | undefined;
  readonly language: string | undefined;
  readonly text: string | undefined;
  /** The same for bodies that read the same; undefined where that is not known. */
  readonly key: string | undefined;
  /** Values of its Link headers, those of early hints too. */
  readonly linkHeaders: readonly string[];
}

/** Which exchange's body names which exchange. */
export interface Found {
  readonly named: ReadonlyMap<ExchangeIndex, ExchangeIndex>;
  readonly asked: ReadonlyMap<ExchangeIndex, ExchangeIndex>;
  /** How those that a tag or an import names are named, and by whose body: the way that holds the load up most. */
  readonly manners: ReadonlyMap<ExchangeIndex, NamedHow>;
}

export interface NamedHow {
  readonly manner: Manner;
  readonly by: ExchangeIndex;
}

interface Match {
  readonly carrier: LinkTarget;
  /** Characters of the address that the body spells out. */
  readonly length: number;
}

interface Spelled {
  readonly target: LinkTarget;
  readonly href: string;
  readonly origin: string;
  readonly path: string;
  readonly pathAndQuery: string;
}

/** What scripts ask for themselves. */
const IS_CALL: ReadonlySet<Kind> = new Set(['data', 'other', 'report', 'stream', 'socket']);
/** A file's name alone says little where it is short. */
const LEAST_NAME_CHARS = 5;
/** Pieces of a template must spell out so much of an address. */
const LEAST_PATTERN_CHARS = 4;
/** Patterns are held against every call of a page: more of them are not. */
const MOST_PATTERNS = 3000;
/** More than any address is long. */
const ORIGIN_BONUS = 1_000_000;

/**
 * Finds which exchange's body names which other's address: as a whole, by its path, by its file's name, or by the pieces
 * that a script puts it together from. The longest spelling wins, then the one that was there first.
 */
export class LinkFinder {
  readonly #byIndex = new Map<ExchangeIndex, LinkTarget>();
  readonly #byUrl = new Map<string, Spelled[]>();
  readonly #byPath = new Map<string, Spelled[]>();
  readonly #byName = new Map<string, Spelled[]>();
  readonly #calls: Spelled[] = [];
  readonly #callsByHref: Prefixes<Spelled>;
  readonly #callsByPath: Prefixes<Spelled>;
  readonly #best = new Map<ExchangeIndex, Match>();
  readonly #bestSpelled = new Map<ExchangeIndex, Match>();
  readonly #manners = new Map<ExchangeIndex, NamedHow>();
  readonly #demands = new Map<ExchangeIndex, MetDemand>();
  #patterns = 0;

  readonly #known: KnownBodies | undefined;

  /** @param known what bodies name that were read before */
  constructor(targets: readonly LinkTarget[], known?: KnownBodies) {
    this.#known = known;
    for (const target of targets) {
      this.#byIndex.set(target.index, target);
      const spelled = spell(target);
      if (spelled === undefined) continue;
      addTo(this.#byUrl, spelled.href, spelled);
      addTo(this.#byPath, spelled.pathAndQuery, spelled);
      if (spelled.path !== spelled.pathAndQuery) addTo(this.#byPath, spelled.path, spelled);
      const name = spelled.path.split('/').at(-1) ?? '';
      if (name.length >= LEAST_NAME_CHARS && name.includes('.')) addTo(this.#byName, name, spelled);
      if (target.kind !== 'document' && target.kind !== 'preflight') this.#calls.push(spelled);
    }
    this.#callsByHref = new Prefixes(this.#calls, ({ href }) => href);
    this.#callsByPath = new Prefixes(this.#calls, ({ pathAndQuery }) => pathAndQuery);
  }

  /** Searches one exchange's body and Link headers. */
  look(carrier: Carrier): void {
    const own = this.#byIndex.get(carrier.index);
    if (own === undefined || own.answeredMs === undefined) return;
    const inHeaders: Named[] = [];
    for (const value of carrier.linkHeaders) linksInHeader(value, (named) => void inHeaders.push(named));
    const { named, base } = this.#linksIn(carrier);
    const pageBase = resolve(base ?? '', own.url)?.href ?? own.url;
    for (const one of inHeaders) this.#match(one, own, pageBase);
    for (const one of named) this.#match(one, own, pageBase);
  }

  #linksIn(carrier: Carrier): BodyLinks {
    const { text, key } = carrier;
    if (text === undefined) return NO_LINKS;
    const read = (): BodyLinks => linksInBody(carrier, text);
    return key === undefined || this.#known === undefined ? read() : this.#known.of(key, read);
  }

  /** What a page searched so far demands of an exchange's bytes. */
  demandOf(index: ExchangeIndex): MetDemand | undefined {
    return this.#demands.get(index);
  }

  /**
   * For each exchange that is named somewhere, the one that names it best. An image whose address a script puts together
   * is named by the script, but asked for by the page that it was put into: of `asked` such are left out.
   */
  references(): Found {
    const plain = (best: ReadonlyMap<ExchangeIndex, Match>) =>
      new Map([...best].map(([index, { carrier }]): [ExchangeIndex, ExchangeIndex] => [index, carrier.index]));
    return { named: plain(this.#best), asked: plain(this.#bestSpelled), manners: this.#manners };
  }

  #match(named: Named, carrier: LinkTarget, pageBase: string): void {
    switch (named.type) {
      case 'link': {
        const url = resolve(named.url, named.base === 'page' ? pageBase : carrier.url);
        if (url === undefined) break;
        const targets = this.#byUrl.get(withoutFragment(url.href));
        this.#offerAll(targets, carrier, url.href.length);
        if (named.manner !== undefined) this.#note(targets, carrier, named.manner);
        const { demand } = named;
        if (demand === undefined) break;
        const isOpaque = !demand.isByCors && url.origin !== resolve('', carrier.url)?.origin;
        for (const { target } of targets ?? [])
          if (target.page === carrier.page) this.#demands.set(target.index, { integrity: demand.integrity, isOpaque });
        break;
      }
      case 'quoted':
        this.#matchQuoted(named.text, carrier, pageBase);
        break;
      case 'pattern':
        this.#matchPattern(named.pieces, carrier);
        break;
      default:
        named satisfies never;
    }
  }

  #matchQuoted(text: string, carrier: LinkTarget, pageBase: string): void {
    if (/^(https?|wss?):\/\//i.test(text) || text.startsWith('//')) {
      const url = resolve(text, carrier.url);
      if (url === undefined) return;
      const href = withoutFragment(url.href);
      this.#offerAll(this.#byUrl.get(href), carrier, href.length);
      // The beginning of addresses that a script completes.
      for (const call of this.#callsByHref.startingWith(href)) {
        if (call.href === href) continue;
        this.#offer(call, carrier, href.length + this.#bonus(call, carrier, true), IS_CALL.has(call.target.kind));
      }
      return;
    }
    for (const base of [carrier.url, pageBase]) {
      const url = resolve(text, base);
      if (url !== undefined) this.#offerAll(this.#byUrl.get(withoutFragment(url.href)), carrier, text.length);
    }
    const path = text.startsWith('/') ? text : `/${text.replace(/^(\.\.?\/)+/, '')}`;
    this.#offerAll(this.#byPath.get(path), carrier, text.length);
    if (text.startsWith('/') && text.length >= LEAST_PATTERN_CHARS) {
      for (const call of this.#callsByPath.startingWith(text))
        this.#offer(call, carrier, text.length, IS_CALL.has(call.target.kind));
    }
    const name =
      text
        .split('/')
        .at(-1)
        ?.replace(/[?#].*$/s, '') ?? '';
    this.#offerAll(this.#byName.get(name), carrier, name.length);
  }

  #matchPattern(pieces: readonly string[], carrier: LinkTarget): void {
    const length = pieces.reduce((sum, piece) => sum + piece.length, 0);
    const isAddress = pieces.some((piece) => piece.includes('/'));
    if (!isAddress || length < LEAST_PATTERN_CHARS || pieces.some((piece) => /[\s<>]/.test(piece))) return;
    if (this.#patterns++ > MOST_PATTERNS) return;
    const startsAbsolute = /^(https?|wss?):/i.test(pieces[0] ?? '');
    // An unknown beginning stands for an origin that the script has from elsewhere.
    const startsUnknown = pieces[0] === '' && (pieces[1] ?? '').startsWith('/');
    const tail = startsUnknown ? pieces.slice(1) : pieces;
    for (const call of this.#calls) {
      if (!fits(tail, startsAbsolute ? call.href : call.pathAndQuery)) continue;
      const origin = startsAbsolute ? 0 : startsUnknown ? call.origin.length : 0;
      const bonus = this.#bonus(call, carrier, startsAbsolute || startsUnknown);
      this.#offer(call, carrier, length + origin + bonus, IS_CALL.has(call.target.kind));
    }
  }

  /** A call to another origin is put together where that origin is spelled, not where only its path is. */
  #bonus(call: Spelled, carrier: LinkTarget, spellsOrigin: boolean): number {
    return spellsOrigin && !carrier.url.startsWith(call.origin) ? ORIGIN_BONUS : 0;
  }

  #note(targets: readonly Spelled[] | undefined, carrier: LinkTarget, manner: Manner): void {
    for (const { target } of targets ?? []) {
      if (!couldName(carrier, target)) continue;
      const before = this.#manners.get(target.index);
      if (before === undefined || MANNERS.indexOf(manner) < MANNERS.indexOf(before.manner))
        this.#manners.set(target.index, { manner, by: carrier.index });
    }
  }

  #offerAll(spelled: readonly Spelled[] | undefined, carrier: LinkTarget, length: number): void {
    for (const one of spelled ?? []) this.#offer(one, carrier, length);
  }

  /** Takes a match where it is better than what there is, and where its body had begun to come when the exchange started. */
  #offer({ target }: Spelled, carrier: LinkTarget, length: number, isAsked = true): void {
    if (!couldName(carrier, target)) return;
    keepBetter(this.#best, target.index, { carrier, length });
    if (isAsked) keepBetter(this.#bestSpelled, target.index, { carrier, length });
  }
}

/** Whether a body of the same page had begun to come when an exchange started. */
const couldName = (carrier: LinkTarget, { index, page, startMs }: LinkTarget): boolean =>
  index !== carrier.index &&
  page === carrier.page &&
  startMs !== undefined &&
  carrier.answeredMs !== undefined &&
  carrier.answeredMs <= startMs + CLOCK_RESOLUTION_MS;

/** The longest spelling, and of equals the one that was there first. */
function keepBetter(best: Map<ExchangeIndex, Match>, index: ExchangeIndex, match: Match): void {
  const before = best.get(index);
  const at = ({ carrier }: Match): number => carrier.answeredMs ?? Number.POSITIVE_INFINITY;
  const isBetter =
    before === undefined || match.length > before.length || (match.length === before.length && at(match) < at(before));
  if (isBetter) best.set(index, match);
}

const NO_LINKS: BodyLinks = { named: [], base: undefined };

/** Reads a text by what it is. */
function linksInBody({ shape, language }: Carrier, text: string): BodyLinks {
  const named: Named[] = [];
  const tell = (one: Named): void => void named.push(one);
  if (shape === 'html') return { named, base: linksInHtml(text, tell).base };
  if (language === 'css') linksInCss(text, tell);
  else if (language === 'javascript') linksInScript(text, tell);
  else if (shape === 'json') linksInJson(text, tell);
  else if (language === 'xml' || shape === 'image') linksInHtml(text, tell);
  return { named, base: undefined };
}

/** True where an address can have been put together of these pieces, the unknown ones filled with anything. */
function fits(pieces: readonly string[], whole: string): boolean {
  let at = 0;
  for (const [place, piece] of pieces.entries()) {
    if (place === 0) {
      if (!whole.startsWith(piece)) return false;
      at = piece.length;
      continue;
    }
    const isLast = place === pieces.length - 1;
    if (isLast && piece !== '') return whole.length - piece.length >= at && whole.endsWith(piece);
    const next = whole.indexOf(piece, at);
    if (next === -1) return false;
    at = next + piece.length;
  }
  return true;
}

function spell(target: LinkTarget): Spelled | undefined {
  const url = resolve(target.url, undefined);
  if (url === undefined || url.host === '') return undefined;
  const pathAndQuery = url.pathname + url.search;
  return { target, href: withoutFragment(url.href), origin: url.origin, path: url.pathname, pathAndQuery };
}

function resolve(text: string, base: string | undefined): URL | undefined {
  try {
    return new URL(text, base);
  } catch {
    return undefined;
  }
}

/** Fragments never reach a server (RFC 9110 7.1). */
function withoutFragment(href: string): string {
  const end = href.indexOf('#');
  return end === -1 ? href : href.slice(0, end);
}
