import type { KeptDraft } from '#core/sheet';
import type { Answer } from '../state/api';
import { OrderedWrites, type Write } from '../state/ordered-writes';

/** A draft is kept this long after it was last changed. */
export const KEEP_AFTER_MS = 400;

/** How drafts are written and dropped; `isLeaving` where the page may be gone before the answer comes. */
export interface DraftWriter {
  readonly keep: (kept: KeptDraft, isLeaving: boolean) => Promise<Answer<unknown>>;
  readonly drop: (id: string, isLeaving: boolean) => Promise<Answer<unknown>>;
}

type OnProblem = (kept: KeptDraft, answer: Answer<unknown> & { readonly ok: false }) => void;

/**
 * Keeps drafts on the server as they change: once typing rests, one write after the other, so that none overtakes
 * another, and at once where the page is left.
 */
export class DraftKeeper {
  readonly #writer: DraftWriter;
  readonly #onProblem: OnProblem;
  readonly #waiting = new Map<string, { readonly timer: ReturnType<typeof setTimeout>; readonly kept: KeptDraft }>();
  readonly #writes = new OrderedWrites();

  constructor(writer: DraftWriter, onProblem: OnProblem) {
    this.#writer = writer;
    this.#onProblem = onProblem;
  }

  /** Keeps a draft once nothing has changed in it for a while. */
  keepLater(kept: KeptDraft): void {
    clearTimeout(this.#waiting.get(kept.id)?.timer);
    this.#waiting.set(kept.id, { kept, timer: setTimeout(() => this.keepNow(kept), KEEP_AFTER_MS) });
  }

  /** Keeps a draft as soon as the writes before it are done. */
  keepNow(kept: KeptDraft): void {
    this.#forget(kept.id);
    this.#writes.put(kept.id, this.#keeping(kept));
  }

  /** Drops a draft, after all that was written of it. */
  drop(kept: KeptDraft): void {
    this.#forget(kept.id);
    this.#writes.put(kept.id, async (isLeaving) => this.#tell(kept, await this.#writer.drop(kept.id, isLeaving)));
  }

  /** Writes what waits, without waiting for anything: the page is being left. */
  leave(): void {
    const waiting = [...this.#waiting.values()].map(({ kept }) => kept);
    for (const { id } of waiting) this.#forget(id);
    this.#writes.leave(waiting.map((kept) => [kept.id, this.#keeping(kept)]));
  }

  #keeping(kept: KeptDraft): Write {
    return async (isLeaving) => this.#tell(kept, await this.#writer.keep(kept, isLeaving));
  }

  #forget(id: string): void {
    clearTimeout(this.#waiting.get(id)?.timer);
    this.#waiting.delete(id);
  }

  #tell(kept: KeptDraft, answer: Answer<unknown>): void {
    if (!answer.ok) this.#onProblem(kept, answer);
  }
}
