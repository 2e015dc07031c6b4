import type { Manner, NamedHow } from '../links';
import type { ExchangeIndex } from '../model';
import type { Holds, ParentEvidence } from '../timing';
import type { ExchangeFacts } from './facts';

/** What is known of an exchange that bears on what its page waits for. */
export interface HoldClue {
  readonly fact: ExchangeFacts;
  /** A service worker made it. */
  readonly isByWorker: boolean;
  readonly parent: ExchangeIndex | undefined;
  readonly parentEvidence: ParentEvidence | undefined;
}

/** What an exchange's own place passes on to what it asks for. */
interface Place {
  readonly holds: Holds | undefined;
  /** In a document inside the page: it has a DOM ready of its own. */
  readonly isInFrame: boolean;
  /** A worker's script, or what a worker asked for: no page waits for it. */
  readonly isInWorker: boolean;
}

/** No load waits for what is named so; a preload is waited for once something uses it. */
const NEVER: ReadonlySet<Manner> = new Set<Manner>(['lazy', 'prefetch', 'icon']);
const ICON = /\/(favicon|apple-touch-icon)[^/]*$/i;

/**
 * Which of a page's milestones each exchange holds up: DOM ready (and with it loaded), loaded alone, or none. DOM ready
 * waits for the document, for scripts that are not async and for the styles before them; loaded for frames, async scripts,
 * images, fonts and media too; neither for calls, reports, sockets, streams, preflights, icons, manifests, prefetches and
 * what workers fetch (WHATWG HTML 13.2.7, 8.1.4.2, "delay the load event").
 * @param clues in the order of their starts: a parent comes before its children
 */
export function findHolds(
  clues: readonly HoldClue[],
  manners: ReadonlyMap<ExchangeIndex, NamedHow>,
): ReadonlyMap<ExchangeIndex, Holds | undefined> {
  const places = new Map<ExchangeIndex, Place>();
  for (const clue of clues) {
    const parent = clue.parent === undefined ? undefined : places.get(clue.parent);
    places.set(clue.fact.index, placeOf(clue, parent, manners.get(clue.fact.index), places));
  }
  return new Map([...places].map(([index, { holds }]) => [index, holds]));
}

function placeOf(
  { fact, isByWorker, parentEvidence }: HoldClue,
  parent: Place | undefined,
  how: NamedHow | undefined,
  places: ReadonlyMap<ExchangeIndex, Place>,
): Place {
  const isInWorker = isByWorker || fact.isWorkerScript || parent?.isInWorker === true;
  const isFrame =
    fact.kind === 'document' && !fact.isNavigation && parent !== undefined && parentEvidence !== 'redirect';
  const isInFrame = isFrame || parent?.isInFrame === true;
  const isNever =
    fact.isPrefetch || ICON.test(fact.url.slice(0, ICON_CHARS)) || (how !== undefined && NEVER.has(how.manner));
  const own = isInWorker || isNever ? undefined : ownHold(fact, parentEvidence, parent, how, places);
  return { holds: own === 'ready' && isInFrame ? 'loaded' : own, isInFrame, isInWorker };
}
/** No icon has a longer address. */
const ICON_CHARS = 300;

function ownHold(
  { kind, initiatorType }: ExchangeFacts,
  parentEvidence: ParentEvidence | undefined,
  parent: Place | undefined,
  how: NamedHow | undefined,
  places: ReadonlyMap<ExchangeIndex, Place>,
): Holds | undefined {
  switch (kind) {
    case 'document':
      return 'ready';
    case 'image':
    case 'font':
    case 'media':
      return 'loaded';
    case 'script':
    case 'style': {
      // Where a redirect led is waited for as what was asked for.
      if (parentEvidence === 'redirect' && parent !== undefined) return parent.holds ?? 'loaded';
      if (how?.manner === 'imported') return places.get(how.by)?.holds ?? 'loaded';
      if (how !== undefined) return how.manner === 'parsed' ? 'ready' : 'loaded';
      // What a script puts into the page is async (WHATWG HTML 4.12.1.1, force async).
      return initiatorType === 'script' ? 'loaded' : (parent?.holds ?? 'ready');
    }
    case 'data':
    case 'socket':
    case 'stream':
    case 'preflight':
    case 'report':
    case 'other':
      return undefined;
    default:
      return kind satisfies never;
  }
}
