import { addTo } from '../collections';
import type { ExchangeIndex, Kind, Party } from '../model';
import { CLOCK_RESOLUTION_MS } from './clock';
import { countUpTo } from './sorted';

/** Milestones that a page's exchanges hold up: what holds DOM ready up holds loaded up too. */
export const HOLDS = ['ready', 'loaded'] as const;
export type Holds = (typeof HOLDS)[number];

/** What the route needs of an exchange. Times in ms since the page's start, `endMs` not before `startMs`. */
export interface RouteStop {
  readonly index: ExchangeIndex;
  readonly kind: Kind;
  readonly party: Party | undefined;
  readonly startMs: number;
  readonly endMs: number;
  /** The first milestone that waits for it; absent where none does. */
  readonly holds: Holds | undefined;
  /** Until when it holds that up: its end, but of media only until they can begin to play. */
  readonly heldUntilMs: number;
  readonly parent: ExchangeIndex | undefined;
  /** The exchange whose body names it. */
  readonly namedBy: ExchangeIndex | undefined;
  /** Method, address, operation and payload: the same for a request that is sent again. */
  readonly request: string;
  readonly hasFailed: boolean;
}

/**
 * How a stop hangs on the one it waited for: its parent; what named it, where that came later than the parent; the same
 * request, which had failed; or what held up whoever asked for it.
 */
export type RouteLink = 'parent' | 'named' | 'retry' | 'held-up';

export interface Waited {
  readonly stop: RouteStop;
  readonly link: RouteLink;
}

/** A wait between a parent's end and its child's start that something else may explain: three frames of a screen. */
const LONG_GAP_MS = 30;
/** A script or style that held others up, or a call that renewed a token, ended at most this long before they started. */
const SHORTLY_MS = 60;
/** A page that makes more calls than these between two tries does not wait for the second. */
const MOST_IN_PAUSE = 2;

/** What each exchange of a page waited for, judged from all of them. Sockets and streams last as long as the page: nothing waits for them. */
export class Waits {
  readonly #byIndex: ReadonlyMap<ExchangeIndex, RouteStop>;
  /** Scripts and styles in the order of their ends. */
  readonly #code: readonly RouteStop[];
  /** Calls by party, in the order of their ends. */
  readonly #calls = new Map<Party | undefined, [RouteStop, ...RouteStop[]]>();
  /** Failed requests, the same together, in the order of their ends. */
  readonly #failed = new Map<string, [RouteStop, ...RouteStop[]]>();

  constructor(stops: readonly RouteStop[]) {
    this.#byIndex = new Map(stops.map((stop) => [stop.index, stop]));
    const byEnd = [...stops].sort((a, b) => a.endMs - b.endMs || a.index - b.index);
    this.#code = byEnd.filter(({ kind }) => kind === 'script' || kind === 'style');
    for (const stop of byEnd) {
      if (stop.kind === 'data') addTo(this.#calls, stop.party, stop);
      if (stop.hasFailed) addTo(this.#failed, stop.request, stop);
    }
  }

  /**
   * What a stop waited for. Its parent, where it starts soon after that has ended or while it still comes. After a longer
   * gap, what ended inside it: the same request, which had failed and is sent again; the response that named it; a script
   * or style that ended shortly before (the parser, or the modules that one imports, waited for it), or one that the
   * document asks for and that took up most of the gap (running it took the rest); the call of its party that ended last
   * before it: for a call however long the gap, for anything else at once.
   */
  of(stop: RouteStop): Waited | undefined {
    const parent = stop.parent === undefined ? undefined : this.#byIndex.get(stop.parent);
    if (parent === undefined) return undefined;
    const own: Waited = { stop: parent, link: 'parent' };
    if (stop.startMs - parent.endMs < LONG_GAP_MS) return own;
    const named = stop.namedBy === undefined ? undefined : this.#byIndex.get(stop.namedBy);
    return (
      this.#findTry(stop, parent) ??
      (named !== undefined && isBetween(parent, named, stop) ? { stop: named, link: 'named' } : undefined) ??
      this.#findCode(stop, parent) ??
      this.#findCall(stop, parent) ??
      own
    );
  }

  /** The same request, which had failed; or what was renewed between the two, where that ended just before. */
  #findTry(stop: RouteStop, parent: RouteStop): Waited | undefined {
    const failed = lastOf(this.#failed.get(stop.request) ?? [], stop);
    if (failed === undefined || !isBetween(parent, failed, stop)) return undefined;
    const calls = this.#calls.get(stop.party) ?? [];
    let last: RouteStop | undefined;
    let count = 0;
    for (let at = countEndedBy(calls, stop.startMs) - 1; at >= 0 && count <= MOST_IN_PAUSE; at--) {
      const call = calls[at];
      if (call === undefined || call.endMs < failed.endMs) break;
      if (
        call.index === stop.index ||
        call.startMs < failed.endMs - CLOCK_RESOLUTION_MS ||
        call.startMs >= stop.startMs
      )
        continue;
      last ??= call;
      count++;
    }
    const isRenewal = last !== undefined && (stop.startMs - last.endMs <= SHORTLY_MS || count > MOST_IN_PAUSE);
    return last !== undefined && isRenewal ? { stop: last, link: 'held-up' } : { stop: failed, link: 'retry' };
  }

  #findCode(stop: RouteStop, parent: RouteStop): Waited | undefined {
    // From the last that had ended when it started, back to where nothing counts any more.
    for (let at = countEndedBy(this.#code, stop.startMs) - 1; at >= 0; at--) {
      const other = this.#code[at];
      if (other === undefined) break;
      const agoMs = stop.startMs - other.endMs;
      if (agoMs > Math.max(SHORTLY_MS, other.endMs - parent.endMs)) break;
      const canHoldUp = agoMs <= SHORTLY_MS || this.#isOfDocument(other);
      if (canHoldUp && isBetween(parent, other, stop)) return { stop: other, link: 'held-up' };
    }
    return undefined;
  }

  #isOfDocument({ parent }: RouteStop): boolean {
    return parent !== undefined && this.#byIndex.get(parent)?.kind === 'document';
  }

  #findCall(stop: RouteStop, parent: RouteStop): Waited | undefined {
    const call = lastOf(this.#calls.get(stop.party) ?? [], stop);
    // What a page shows of an answer it asks for as soon as that is there; a call may have waited for one longer.
    const isSoon = call !== undefined && stop.startMs - call.endMs < LONG_GAP_MS;
    if (stop.kind !== 'data' && !isSoon) return undefined;
    return call !== undefined && isBetween(parent, call, stop) ? { stop: call, link: 'held-up' } : undefined;
  }
}

/** Whether something ended between a parent's end and its child's start. */
const isBetween = (parent: RouteStop, other: RouteStop, child: RouteStop): boolean =>
  other.index !== child.index &&
  other.endMs > parent.endMs &&
  other.endMs <= child.startMs + CLOCK_RESOLUTION_MS &&
  other.startMs < child.startMs;

/** Of stops in the order of their ends the last that had ended when another one started. */
function lastOf(byEnd: readonly RouteStop[], child: RouteStop): RouteStop | undefined {
  for (let at = countEndedBy(byEnd, child.startMs) - 1; at >= 0; at--) {
    const other = byEnd[at];
    // A call that took no time may end when it starts itself.
    if (other !== undefined && other.index !== child.index && other.startMs < child.startMs) return other;
  }
  return undefined;
}

/** How many of the stops, in order of their ends, had ended by a moment, as exactly as starts are recorded. */
const countEndedBy = (byEnd: readonly RouteStop[], ms: number): number =>
  countUpTo(byEnd, ({ endMs }) => endMs, ms + CLOCK_RESOLUTION_MS);
