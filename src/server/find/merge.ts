import { type Hit, wordBound } from '#core/find';
import type { FindProgress } from '#core/wire';
import type { FoundBlock, FromFindWorker } from './protocol';

/** More hits than these nobody reads; the search ends and says so. */
export const MOST_HITS = 5000;

/** What several threads find, each in its share of the blocks, put back into the order of the file. */
export class Merge {
  readonly #waiting: FoundBlock[][];
  readonly #ends: (Extract<FromFindWorker, { type: 'ended' }> | undefined)[];
  readonly #most: number;
  readonly #bounded: Hit[] = [];
  #next = 0;
  #count = 0;
  #searched = 0;
  #isOver = false;

  constructor(parts: number, most = MOST_HITS) {
    this.#waiting = Array.from({ length: parts }, () => []);
    this.#ends = new Array(parts).fill(undefined);
    this.#most = most;
  }

  /** Takes what a thread says; gives what can be told by now. Nothing comes behind "ended". */
  take(part: number, message: FromFindWorker): FindProgress[] {
    if (this.#isOver) return [];
    if (message.type === 'found') this.#waiting[part]?.push(...message.blocks);
    else this.#ends[part] = message;
    const hits: Hit[] = [];
    let searched: number | undefined;
    let ended: FindProgress | undefined;
    while (ended === undefined) {
      const turn = this.#next % this.#waiting.length;
      const block = this.#waiting[turn]?.shift();
      const end = this.#ends[turn];
      if (block === undefined && end === undefined) break;
      this.#add(hits, block?.hits ?? end?.rest ?? []);
      if (this.#count >= this.#most) ended = endOf(`The search ended at ${this.#most} hits: refine it to see all.`);
      else if (block === undefined) ended = endOf(end?.problem ?? wordBound(this.#bounded));
      if (block === undefined) continue;
      ({ searched } = block);
      this.#next++;
    }
    this.#isOver = ended !== undefined;
    const found: FindProgress[] =
      searched === undefined && hits.length === 0
        ? []
        : [{ type: 'found', hits, searched: searched ?? this.#searched }];
    this.#searched = searched ?? this.#searched;
    return ended === undefined ? found : [...found, ended];
  }

  #add(hits: Hit[], more: readonly Hit[]): void {
    hits.push(...more.slice(0, this.#most - this.#count));
    this.#count += more.length;
    this.#bounded.push(...more.filter(({ hasMore }) => hasMore === true));
  }
}

const endOf = (problem: string | undefined): FindProgress => ({
  type: 'ended',
  isWhole: problem === undefined,
  problem,
});
