import { addTo } from '../collections';
import type { ExchangeIndex } from '../model';
import { type Node, PARTS, type PlayState, TIME_PARTS, type TimePart, type UnionGraph } from './graph';

/** What of an exchange was another in the play of one step. */
export interface Played {
  readonly a: ExchangeIndex | undefined;
  readonly b: ExchangeIndex | undefined;
  /** B's less A's, in ms, of the parts of its time that differ. */
  readonly parts: Readonly<Partial<Record<TimePart, number>>>;
  /** What it waited for in each load, where that is not the same. */
  readonly asked: { readonly a: ExchangeIndex | undefined; readonly b: ExchangeIndex | undefined } | undefined;
  /** The goal waits for it in one load alone. */
  readonly held: 'in-a' | 'in-b' | undefined;
}

/** What a part of the difference comes from. `ms` is what it changes the load by: negative where B is sooner for it. */
export interface Cause {
  readonly ms: number;
  /** The endpoint whose exchanges it is about; absent where it is about one exchange. */
  readonly endpoint: string | undefined;
  readonly played: readonly Played[];
}

/** The difference of two loads by what made it. All of it adds up to `totalMs`. */
export interface Causes {
  /** B's load less A's. */
  readonly totalMs: number;
  /** The dearest first. */
  readonly causes: readonly Cause[];
  /** What the other exchanges that differ make together, each of them less than is worth naming. */
  readonly others: { readonly ms: number; readonly exchanges: number };
  /** What no exchange explains: gaps in which the load waited for none are longer or shorter. */
  readonly notExplainedMs: number;
}

/** Less is not worth naming. */
const WORTH_MS = 1;
/** A group is named in place of one exchange where together they gain clearly more. */
const GROUP_SHARE = 1.2;
const MOST_STEPS = 40;
/** So many times nodes a play may take in all: with more exchanges fewer causes are told apart. */
const MOST_NODES_PLAYED = 8_000_000;
const LEAST_PLAYS = 150;

interface Candidate {
  readonly endpoint: string | undefined;
  readonly nodes: readonly number[];
}

/**
 * What made the difference, by playing the slower load with one exchange after another, or all of an endpoint, as in the
 * quicker: each time that which makes it quicker by most, then what makes it slower. The order is the same whichever of the
 * two is A, so that the sides exchanged give the same with the signs turned.
 */
export function findCauses(graph: UnionGraph, endpointOf: (node: Node) => string): Causes {
  const run = new Run(graph, endpointOf);
  run.lessen();
  run.lengthen();
  return run.end();
}

/** Long because the state of one play is all that its steps share. */
class Run {
  readonly #graph: UnionGraph;
  readonly #endpointOf: (node: Node) => string;
  readonly #causes: Cause[] = [];
  /** Nodes that have something of their own to be played, those but for a gap left out. */
  readonly #open = new Set<number>();
  readonly #ofEndpoint = new Map<string, number[]>();
  #state: PlayState;
  #atMs: number;
  readonly #beginMs: number;
  #playsLeft: number;

  constructor(graph: UnionGraph, endpointOf: (node: Node) => string) {
    this.#graph = graph;
    this.#endpointOf = endpointOf;
    this.#state = graph.begin();
    this.#atMs = graph.play(this.#state).atMs;
    this.#beginMs = this.#atMs;
    this.#playsLeft = Math.max(LEAST_PLAYS, MOST_NODES_PLAYED / Math.max(1, graph.nodes.length));
    graph.nodes.forEach((node, at) => {
      if (ownBits(node) === 0) return;
      this.#open.add(at);
      addTo(this.#ofEndpoint, endpointOf(node), at);
    });
  }

  /** Steps that make the load shorter. */
  lessen(): void {
    while (this.#causes.length < MOST_STEPS) {
      const found = this.#best(this.#graph.play(this.#state).route(), (ms) => -ms);
      if (found === undefined) return;
      this.#take(found);
    }
  }

  /** Steps that make it longer: they are on the route once everything is as in the other load. */
  lengthen(): void {
    for (let steps = 0; steps < MOST_STEPS; steps++) {
      const all = this.#with([...this.#open]);
      const found = this.#best(this.#graph.play(all).route(), Math.abs);
      if (found === undefined) return;
      this.#take(found);
    }
  }

  end(): Causes {
    const open = [...this.#open];
    const withOthers = this.#with(open);
    const othersMs = this.#graph.play(withOthers).atMs - this.#atMs;
    const everything: PlayState = {
      taken: withOthers.taken.map((bits, at) => bits | (this.#graph.nodes[at]?.differs ?? 0)),
      takesLastGap: true,
    };
    const endMs = this.#graph.play(everything).atMs;
    return {
      totalMs: endMs - this.#beginMs,
      causes: this.#causes.toSorted((one, other) => Math.abs(other.ms) - Math.abs(one.ms)),
      others: { ms: othersMs, exchanges: open.length },
      notExplainedMs: endMs - this.#atMs - othersMs,
    };
  }

  /** The candidate on a route that is worth most, one exchange before a group that gains hardly more. */
  #best(route: readonly number[], worthOf: (ms: number) => number): (Candidate & { readonly ms: number }) | undefined {
    let best: (Candidate & { readonly ms: number }) | undefined;
    const consider = (candidate: Candidate, share: number): void => {
      if (this.#playsLeft-- <= 0) return;
      const ms = this.#graph.play(this.#with(candidate.nodes)).atMs - this.#atMs;
      if (worthOf(ms) >= Math.max(WORTH_MS, share * (best === undefined ? 0 : worthOf(best.ms)) + DUST_MS))
        best = { ...candidate, ms };
    };
    const onRoute = route.filter((at) => this.#open.has(at));
    for (const at of onRoute) consider({ endpoint: undefined, nodes: [at] }, 1);
    const endpoints = new Set(onRoute.map((at) => this.#nameOf(at)));
    for (const endpoint of endpoints) {
      const nodes = (this.#ofEndpoint.get(endpoint) ?? []).filter((at) => this.#open.has(at));
      if (nodes.length > 1) consider({ endpoint, nodes }, GROUP_SHARE);
    }
    return best;
  }

  #nameOf(at: number): string {
    const node = this.#graph.nodes[at];
    return node === undefined ? '' : this.#endpointOf(node);
  }

  #with(nodes: readonly number[]): PlayState {
    const taken = this.#state.taken.slice();
    for (const at of nodes) taken[at] = (taken[at] ?? 0) | ownBits(this.#graph.nodes[at]);
    return { ...this.#state, taken };
  }

  #take({ endpoint, nodes, ms }: Candidate & { readonly ms: number }): void {
    this.#state = this.#with(nodes);
    this.#atMs = this.#graph.play(this.#state).atMs;
    for (const at of nodes) this.#open.delete(at);
    this.#causes.push({ ms, endpoint, played: nodes.flatMap((at) => this.#playedOf(at)) });
  }

  #playedOf(at: number): Played[] {
    const node = this.#graph.nodes[at];
    if (node === undefined) return [];
    const { a, b, isGapChange } = node;
    const indexOf = (place: number | undefined, side: 'a' | 'b'): ExchangeIndex | undefined =>
      place === undefined ? undefined : this.#graph.nodes[place]?.[side]?.row.index;
    const isPair = a !== undefined && b !== undefined;
    const parts = isPair
      ? Object.fromEntries(
          TIME_PARTS.flatMap((part) => {
            const ms = b.parts[part] - a.parts[part];
            return Math.abs(ms) > DUST_MS ? [[part, ms] as const] : [];
          }),
        )
      : {};
    return [
      {
        a: a?.row.index,
        b: b?.row.index,
        parts,
        asked: isPair && !isGapChange ? { a: indexOf(a.anchor, 'a'), b: indexOf(b.anchor, 'b') } : undefined,
        held: !isPair || a.holds === b.holds ? undefined : a.holds ? 'in-a' : 'in-b',
      },
    ];
  }
}

const DUST_MS = 0.01;

/** What of a node is played by itself: all that differs, but for a gap that a capture cannot explain. */
const ownBits = (node: Node | undefined): number =>
  node === undefined ? 0 : node.isGapChange ? node.differs & ~PARTS.start : node.differs;

/** The same seen from the other side. */
export const turned = ({ totalMs, causes, others, notExplainedMs }: Causes): Causes => ({
  totalMs: negative(totalMs),
  causes: causes.map(({ ms, endpoint, played }) => ({
    ms: negative(ms),
    endpoint,
    played: played.map(({ a, b, parts, asked, held }) => ({
      a: b,
      b: a,
      parts: Object.fromEntries(Object.entries(parts).map(([part, partMs]) => [part, negative(partMs)])),
      asked: asked === undefined ? undefined : { a: asked.b, b: asked.a },
      held: held === undefined ? undefined : held === 'in-a' ? 'in-b' : 'in-a',
    })),
  })),
  others: { ms: negative(others.ms), exchanges: others.exchanges },
  notExplainedMs: negative(notExplainedMs),
});

const negative = (ms: number): number => (ms === 0 ? 0 : -ms);
