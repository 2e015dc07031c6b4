import { addTo } from '../collections';
import type { ExchangeIndex, Kind } from '../model';
import { CLOCK_RESOLUTION_MS } from './clock';

/**
 * How a parent was found, the surest first: the Location of a redirect, the preflight that was awaited, the recorder's
 * own word, an address in the parent's body, the Referer header, or only that it is the page's document.
 */
export const PARENT_EVIDENCE = ['redirect', 'preflight', 'declared', 'referenced', 'referer', 'document'] as const;
export type ParentEvidence = (typeof PARENT_EVIDENCE)[number];

/** What is known of an exchange that bears on who asked for it. Addresses are absolute; times in ms on one clock. */
export interface ParentClue {
  readonly index: ExchangeIndex;
  /** Exchanges of different pages never ask for one another. */
  readonly page: string | undefined;
  readonly method: string;
  readonly url: string;
  readonly kind: Kind;
  readonly startMs: number | undefined;
  /** When the first byte of its answer had come. */
  readonly answeredMs: number | undefined;
  /** Where its redirect leads. */
  readonly location: string | undefined;
  readonly initiatorUrl: string | undefined;
  readonly referer: string | undefined;
  /** Of a preflight: the method that it asks leave for (Fetch, CORS-preflight fetch). */
  readonly preflightMethod: string | undefined;
  /** An exchange whose body names this one, and was found to be the best of those. */
  readonly referencedBy: ExchangeIndex | undefined;
}

export interface Relation {
  readonly parent: ExchangeIndex | undefined;
  readonly evidence: ParentEvidence | undefined;
  readonly preflightFor: ExchangeIndex | undefined;
  readonly depth: number | undefined;
}

/** A preflight and its exchange start within this time of one another, or the one when the other is answered. */
const PREFLIGHT_WITHIN_MS = 1000;

/**
 * The parent of every exchange, in the order given. A parent began to answer before its child started, and comes before
 * it in time, so there are no cycles. Where a recorder starts the exchange's clock before its preflight's, the preflight
 * shares its exchange's parent; else the preflight is the parent.
 */
export function findParents(clues: readonly ParentClue[]): Relation[] {
  const inTime = clues
    .map((clue, place) => ({ clue, place }))
    .filter(({ clue }) => clue.startMs !== undefined)
    .sort((a, b) => (a.clue.startMs ?? 0) - (b.clue.startMs ?? 0) || a.clue.index - b.clue.index);
  const preflights = pairPreflights(inTime.map(({ clue }) => clue));
  const seen = new Seen();
  const relations = new Map<ExchangeIndex, Relation>();
  for (const { clue } of inTime) {
    const preflightFor = preflights.mainOf.get(clue);
    const found = chooseParent(preflightFor ?? clue, clue, seen, preflights.preflightOf);
    const parent = found === undefined ? undefined : relations.get(found.parent.index);
    const evidence = preflightFor !== undefined && found !== undefined ? 'preflight' : found?.evidence;
    relations.set(clue.index, {
      parent: found?.parent.index,
      evidence,
      preflightFor: preflightFor?.index,
      depth: found === undefined ? (clue.kind === 'document' ? 0 : undefined) : depthBelow(parent, found.evidence),
    });
    seen.add(clue);
  }
  return clues.map(
    ({ index }) =>
      relations.get(index) ?? { parent: undefined, evidence: undefined, preflightFor: undefined, depth: undefined },
  );
}

/** What a redirect leads to was not discovered by it, nor what waited for a preflight: both are where they were. */
function depthBelow(parent: Relation | undefined, evidence: ParentEvidence): number | undefined {
  if (parent?.depth === undefined) return undefined;
  return evidence === 'redirect' || evidence === 'preflight' ? parent.depth : parent.depth + 1;
}

interface Found {
  readonly parent: ParentClue;
  readonly evidence: ParentEvidence;
}

/**
 * The parent of an exchange by the best evidence.
 * @param asks whose evidence counts: of a preflight, that of the exchange that it was sent for
 * @param child what must have started after its parent began to answer
 */
function chooseParent(
  asks: ParentClue,
  child: ParentClue,
  seen: Seen,
  preflightOf: ReadonlyMap<ParentClue, ParentClue>,
): Found | undefined {
  const hop = seen.takeHop(asks, child);
  if (hop !== undefined) return { parent: hop, evidence: 'redirect' };
  const preflight = preflightOf.get(child);
  if (preflight !== undefined && seen.find(preflight.index) !== undefined && leads(preflight, child))
    return { parent: preflight, evidence: 'preflight' };
  const declared = seen.findLast(asks.page, asks.initiatorUrl, child);
  if (declared !== undefined) return { parent: declared, evidence: 'declared' };
  const referenced = asks.referencedBy === undefined ? undefined : seen.find(asks.referencedBy);
  if (referenced !== undefined && leads(referenced, child)) return { parent: referenced, evidence: 'referenced' };
  const referer = seen.findLast(asks.page, asks.referer, child);
  if (referer !== undefined && referer.kind !== 'document') return { parent: referer, evidence: 'referer' };
  const document = seen.documentOf(asks.page, child);
  if (referer !== undefined) return { parent: referer, evidence: 'referer' };
  return document === undefined ? undefined : { parent: document, evidence: 'document' };
}

/** True where a parent had begun to answer when its child started. */
const leads = (parent: ParentClue, child: ParentClue): boolean =>
  parent.answeredMs !== undefined &&
  child.startMs !== undefined &&
  parent.answeredMs <= child.startMs + CLOCK_RESOLUTION_MS;

/** The exchanges that started before the one in hand. */
class Seen {
  readonly #byAddress = new Map<string, ParentClue[]>();
  readonly #hops = new Map<string, ParentClue[]>();
  readonly #documents = new Map<string | undefined, ParentClue[]>();
  readonly #byIndex = new Map<ExchangeIndex, ParentClue>();

  add(clue: ParentClue): void {
    this.#byIndex.set(clue.index, clue);
    addTo(this.#byAddress, keyOf(clue.page, clue.url), clue);
    if (clue.location !== undefined) addTo(this.#hops, keyOf(clue.page, clue.location), clue);
    else if (clue.kind === 'document') addTo(this.#documents, clue.page, clue);
  }

  find(index: ExchangeIndex): ParentClue | undefined {
    return this.#byIndex.get(index);
  }

  /** The redirect that led to an address last; it leads to one exchange only. */
  takeHop(asks: ParentClue, child: ParentClue): ParentClue | undefined {
    const hops = this.#hops.get(keyOf(asks.page, asks.url));
    const at = hops?.findLastIndex((hop) => leads(hop, child)) ?? -1;
    if (hops === undefined || at === -1) return undefined;
    const [hop] = asks === child ? hops.splice(at, 1) : hops.slice(at, at + 1);
    return hop;
  }

  /** The exchange of an address that began to answer last before the child started. */
  findLast(page: string | undefined, url: string | undefined, child: ParentClue): ParentClue | undefined {
    if (url === undefined) return undefined;
    return this.#byAddress.get(keyOf(page, url))?.findLast((clue) => leads(clue, child));
  }

  /** The page's document: the first one that is no redirect. */
  documentOf(page: string | undefined, child: ParentClue): ParentClue | undefined {
    const first = this.#documents.get(page)?.[0];
    return first !== undefined && leads(first, child) ? first : undefined;
  }
}

/** Fragments never reach the server: addresses are compared without (RFC 9110 7.1). */
const keyOf = (page: string | undefined, url: string): string => {
  const end = url.indexOf('#');
  return `${page ?? ''}\n${end === -1 ? url : url.slice(0, end)}`;
};

interface Preflights {
  readonly mainOf: ReadonlyMap<ParentClue, ParentClue>;
  readonly preflightOf: ReadonlyMap<ParentClue, ParentClue>;
}

/** Ties each preflight to the exchange of its address and method that starts nearest to it. In order of their starts. */
function pairPreflights(clues: readonly ParentClue[]): Preflights {
  const mainOf = new Map<ParentClue, ParentClue>();
  const preflightOf = new Map<ParentClue, ParentClue>();
  const preflights = clues.filter((clue) => clue.preflightMethod !== undefined);
  if (preflights.length === 0) return { mainOf, preflightOf };
  const mains = new Map<string, ParentClue[]>();
  for (const clue of clues) if (clue.preflightMethod === undefined) addTo(mains, mainKey(clue, clue.method), clue);
  for (const preflight of preflights) {
    const [nearest] = (mains.get(mainKey(preflight, preflight.preflightMethod ?? '')) ?? [])
      .filter((main) => !preflightOf.has(main))
      .map((main) => ({ main, apartMs: apartMs(preflight, main) }))
      .sort((a, b) => a.apartMs - b.apartMs);
    if (nearest === undefined || nearest.apartMs > PREFLIGHT_WITHIN_MS) continue;
    mainOf.set(preflight, nearest.main);
    preflightOf.set(nearest.main, preflight);
  }
  return { mainOf, preflightOf };
}

const mainKey = (clue: ParentClue, method: string): string => `${method} ${keyOf(clue.page, clue.url)}`;

function apartMs(preflight: ParentClue, main: ParentClue): number {
  const mainAt = main.startMs ?? 0;
  const sinceStart = Math.abs(mainAt - (preflight.startMs ?? 0));
  return Math.min(sinceStart, Math.abs(mainAt - (preflight.answeredMs ?? preflight.startMs ?? 0)));
}
