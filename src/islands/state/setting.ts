import { atom, type WritableAtom } from 'nanostores';
import { fetchSetting, type SettingName, writeSetting } from './api';
import { tell } from './notices';
import { OrderedWrites } from './ordered-writes';

type Change<T> = (value: T) => T;

/**
 * Something that the user set, for every capture. A change is seen at once, and made to what the server has by then: what
 * another page set since this one read it, or while this one could not, stays.
 */
export class Setting<T> {
  readonly $value: WritableAtom<T>;
  readonly #name: SettingName;
  readonly #none: T;
  readonly #lasting: string;
  /** Changes that the server does not have, in their order. */
  #unwritten: readonly Change<T>[] = [];
  readonly #writes = new OrderedWrites();
  #written = 0;
  /** That it was read, once at least. */
  #isKnown = false;
  #isFollowed = false;

  /**
   * @param none what it is where it was never set
   * @param lasting what is said of a change that could not be kept
   */
  constructor(name: SettingName, none: T, lasting: string) {
    this.$value = atom(none);
    this.#name = name;
    this.#none = none;
    this.#lasting = lasting;
  }

  /** Reads it; where that fails it stays as it is. */
  async load(): Promise<void> {
    const before = this.#written;
    const answer = await fetchSetting<T>(this.#name);
    // What was written meanwhile was read later than this.
    if (answer.ok && this.#written === before) this.#take(answer.value ?? this.#none);
  }

  change(change: Change<T>): void {
    if (!this.#isFollowed) addEventListener('pagehide', () => this.#writes.leave());
    this.#isFollowed = true;
    this.$value.set(change(this.$value.get()));
    this.#unwritten = [...this.#unwritten, change];
    this.#writes.put('all', (isLeaving) => (isLeaving ? this.#leave() : this.#write()));
  }

  /** There is no time to read what the server has by now; over what was never read nothing is written, which would lose it. */
  async #leave(): Promise<void> {
    if (this.#isKnown) await writeSetting(this.#name, this.$value.get(), true);
  }

  async #write(): Promise<void> {
    const changes = this.#unwritten;
    if (changes.length === 0) return;
    const before = await fetchSetting<T>(this.#name);
    if (before.ok) this.#take(before.value ?? this.#none);
    const next = before.ok ? changes.reduce((value, change) => change(value), before.value ?? this.#none) : undefined;
    const answer = next === undefined ? before : await writeSetting(this.#name, next);
    if (!answer.ok) {
      const { code, sentence, advice } = answer.problem;
      // What the server never takes would stand in the way of all that comes behind it.
      const isRefused = before.ok && code === 'invalid-input';
      if (isRefused) {
        this.#unwritten = this.#unwritten.slice(changes.length);
        this.#take(before.value ?? this.#none);
      }
      tell(sentence, { detail: isRefused ? advice : this.#lasting });
      return;
    }
    this.#written++;
    this.#unwritten = this.#unwritten.slice(changes.length);
    if (next !== undefined) this.#take(next);
  }

  #take(value: T): void {
    this.#isKnown = true;
    this.$value.set(this.#unwritten.reduce((own, change) => change(own), value));
  }
}
