/** What is asked of the server: is the response still the same without these? */
export interface Question<P> {
  readonly stage: 'search' | 'proof' | 'alternative';
  readonly leftOut: readonly P[];
}

export type Reply = { readonly isSame: true } | { readonly isSame: false; readonly reason: string };

/** A part that is needed: what happens without it, and what is enough in its place. */
export interface Needed<P> {
  readonly part: P;
  /** What the response is without it; absent where no trial has shown it yet. */
  readonly reason: string | undefined;
  /** Parts that were left out, and that are enough together in place of this one. */
  readonly orElse: readonly P[];
}

/** What a search has found by now. */
export interface Found<P> {
  readonly needed: readonly Needed<P>[];
  readonly leftOut: readonly P[];
  /** Each that is needed was shown to make a difference. */
  readonly isProven: boolean;
}

interface Parts<P> {
  /** The likelier ones to be needed first: of two that are enough, the first is kept. */
  readonly parts: readonly P[];
  /** Those that are tried in one go first. */
  readonly atOnce: (part: P) => boolean;
  /** Parts of a part, which are searched once it is known to be needed. */
  readonly inside: (part: P) => readonly P[];
  /** So many questions may be asked: alternatives are looked for only within them. */
  readonly mostQuestions: number;
}

/**
 * Finds which parts of a request are needed: a generator that yields each question, takes its reply, and tells what is known
 * by then. Groups first; then the rest is halved, each half searched with the other kept (after Junker 2004, which asks
 * about 2 k log2(n / k) questions for k needed of n where delta debugging may ask n * n); then each that is left is taken
 * away alone. The result is 1-minimal: nothing of it can be left out by itself.
 */
export class TrimSearch<P extends { readonly key: string }> {
  readonly #given: Parts<P>;
  readonly #replies = new Map<string, Reply>();
  #all: readonly P[];
  #kept: readonly P[];
  #reasons = new Map<P, string>();
  #orElse = new Map<P, readonly P[]>();
  #isProven = false;
  #asked = 0;
  /** Questions that alternatives may still ask. */
  #left = 0;

  constructor(given: Parts<P>) {
    this.#given = given;
    this.#all = given.parts;
    this.#kept = given.parts;
  }

  /** What is known by now: what was left out in the shortest request that got the same response. */
  get found(): Found<P> {
    const kept = new Set(this.#kept);
    return {
      needed: this.#kept.map((part) => ({
        part,
        reason: this.#reasons.get(part),
        orElse: this.#orElse.get(part) ?? [],
      })),
      leftOut: this.#all.filter((part) => !kept.has(part)),
      isProven: this.#isProven,
    };
  }

  *run(): Generator<Question<P>, void, Reply> {
    const atOnce = this.#all.filter(this.#given.atOnce);
    if (atOnce.length > 0 && atOnce.length < this.#all.length)
      yield* this.#keeps('search', without(this.#kept, atOnce));
    yield* this.#searchIn([], this.#kept);
    yield* this.#openUp();
    yield* this.#prove();
    yield* this.#findAlternatives();
  }

  /** Whether the response is the same with these alone. What was asked once is not asked again. */
  *#isEnough(stage: Question<P>['stage'], kept: readonly P[]): Generator<Question<P>, Reply, Reply> {
    const leftOut = without(this.#all, kept);
    if (leftOut.length === 0) return SAME;
    const key = keyOf(leftOut);
    const known = this.#replies.get(key);
    if (known !== undefined) return known;
    this.#asked++;
    const reply = yield { stage, leftOut };
    this.#replies.set(key, reply);
    return reply;
  }

  #isKnown(kept: readonly P[]): boolean {
    const leftOut = without(this.#all, kept);
    return leftOut.length === 0 || this.#replies.has(keyOf(leftOut));
  }

  /** Leaves out all but these, where the response stays the same. */
  *#keeps(stage: Question<P>['stage'], kept: readonly P[]): Generator<Question<P>, boolean, Reply> {
    const { isSame } = yield* this.#isEnough(stage, kept);
    if (isSame && kept.length < this.#kept.length) this.#kept = kept;
    return isSame;
  }

  /** Finds what of some is needed beside what is kept for sure. */
  *#searchIn(base: readonly P[], among: readonly P[]): Generator<Question<P>, void, Reply> {
    if (among.length === 0 || (yield* this.#keeps('search', base))) return;
    const needed = yield* this.#minimal((kept) => this.#keeps('search', kept), base, [], among);
    yield* this.#keeps('search', inOrder(this.#all, [...base, ...needed]));
  }

  /** The least of `among` that is enough beside `base`, which is not by itself; `added` was put to it last. */
  *#minimal(
    isEnough: (kept: readonly P[]) => Generator<Question<P>, boolean, Reply>,
    base: readonly P[],
    added: readonly P[],
    among: readonly P[],
  ): Generator<Question<P>, readonly P[], Reply> {
    if (added.length > 0 && (yield* isEnough(inOrder(this.#all, base)))) return [];
    if (among.length === 1) return among;
    const half = among.length >> 1;
    const [first, second] = [among.slice(0, half), among.slice(half)];
    const ofSecond: readonly P[] = yield* this.#minimal(isEnough, [...base, ...first], first, second);
    const ofFirst: readonly P[] = yield* this.#minimal(isEnough, [...base, ...ofSecond], ofSecond, first);
    return [...ofFirst, ...ofSecond];
  }

  /** Searches in what holds parts of its own and is needed. */
  *#openUp(): Generator<Question<P>, void, Reply> {
    for (const outer of this.#kept) {
      const inner = this.#given.inside(outer);
      if (inner.length === 0) continue;
      this.#all = this.#all.flatMap((part) => (part === outer ? [part, ...inner] : [part]));
      this.#kept = this.#kept.flatMap((part) => (part === outer ? [part, ...inner] : [part]));
      yield* this.#searchIn(without(this.#kept, inner), inner);
    }
  }

  /** Takes each that is left away alone; what makes no difference goes, and those before it are asked again. */
  *#prove(): Generator<Question<P>, void, Reply> {
    for (let at = 0; at < this.#kept.length; at++) {
      const part = this.#kept[at] as P;
      const rest = without(this.#kept, [part, ...this.#given.inside(part)]);
      const reply = yield* this.#isEnough('proof', rest);
      if (!reply.isSame) {
        this.#reasons.set(part, reply.reason);
        continue;
      }
      this.#kept = rest;
      at = -1;
    }
    this.#isProven = true;
  }

  /** For each that is needed, what else would do: where it alone may be left out of the whole, something does. */
  *#findAlternatives(): Generator<Question<P>, void, Reply> {
    // The draft unchanged, twice, and the result once more.
    const most = questionsAtMost(this.#all.length, this.#kept.length) - CONTROLS - 1;
    this.#left = Math.min(most, this.#given.mostQuestions) - this.#asked;
    for (const part of this.#kept) {
      const gone = [part, ...this.#given.inside(part)];
      const rest = without(this.#kept, gone);
      const others = without(without(this.#all, this.#kept), gone);
      if (others.length === 0) continue;
      if (!(yield* this.#doesInstead(inOrder(this.#all, [...rest, ...others])))) continue;
      const instead = yield* this.#minimal((kept) => this.#doesInstead(kept), rest, [], others);
      // Without a question left, what there is by then is no answer.
      if (this.#left >= 0) this.#orElse.set(part, instead);
    }
  }

  *#doesInstead(kept: readonly P[]): Generator<Question<P>, boolean, Reply> {
    if (this.#left <= 0 && !this.#isKnown(kept)) {
      this.#left = -1;
      return false;
    }
    const before = this.#asked;
    const { isSame } = yield* this.#isEnough('alternative', kept);
    this.#left -= this.#asked - before;
    return isSame;
  }
}

/** The draft unchanged, twice, before anything is asked. */
export const CONTROLS = 2;

const keyOf = (parts: readonly { readonly key: string }[]): string =>
  parts
    .map(({ key }) => key)
    .sort()
    .join('\n');

const SAME: Reply = { isSame: true };

function without<P>(all: readonly P[], gone: readonly P[]): readonly P[] {
  const set = new Set(gone);
  return all.filter((part) => !set.has(part));
}

const inOrder = <P>(all: readonly P[], some: readonly P[]): readonly P[] => {
  const set = new Set(some);
  return all.filter((part) => set.has(part));
};

/** The most questions that a search asks of a server whose need is a formula over the parts, control and all. */
export const questionsAtMost = (parts: number, needed: number): number =>
  Math.floor(2 * needed * Math.log2(Math.max(2, parts)) + parts + 8);
