import type { AskedBatch } from './protocol';
import type { AskedRecord } from './rehearsal-server';

/**
 * A page's load is kept whole, however fast it asks; of what keeps asking so many a second are. Those beyond are counted:
 * what is told of a request takes longer than answering it.
 */
const MOST_IN_A_ROW = 1000;
const MOST_A_SECOND = 100;
/** So many bytes of them between two messages. */
const MOST_BYTES = 24 * 1024 * 1024;
/** And so many in all. */
const MOST_KEPT = 20_000;

/** What a rehearsal was asked until it is told of, bounded however fast it is asked. */
export class KeptAsked {
  #records: AskedRecord[] = [];
  #bytes = 0;
  #asked = 0;
  #missed = 0;
  #keptInAll = 0;
  #mayKeep = MOST_IN_A_ROW;
  #since = performance.now();

  /** @param record makes what is told of the request, which takes more time than answering it: not where it is not kept */
  add(isMissed: boolean, record: () => AskedRecord): void {
    this.#asked++;
    if (isMissed) this.#missed++;
    const now = performance.now();
    this.#mayKeep = Math.min(MOST_IN_A_ROW, this.#mayKeep + ((now - this.#since) / 1000) * MOST_A_SECOND);
    this.#since = now;
    if (this.#mayKeep < 1 || this.#bytes >= MOST_BYTES || this.#keptInAll >= MOST_KEPT) return;
    this.#mayKeep--;
    const made = record();
    this.#keptInAll++;
    this.#bytes += sizeOf(made);
    this.#records.push(made);
  }

  /** What there is by now; undefined where nothing was asked. */
  take(): AskedBatch | undefined {
    if (this.#asked === 0) return undefined;
    const records = this.#records;
    const batch = {
      records,
      asked: this.#asked,
      missed: this.#missed,
      notKept: this.#asked - records.length,
    };
    this.#records = [];
    this.#bytes = 0;
    this.#asked = 0;
    this.#missed = 0;
    return batch;
  }
}

function sizeOf({ entry, notes }: AskedRecord): number {
  const { request, response } = entry as unknown as {
    readonly request: { readonly postData?: { readonly text: string } };
    readonly response: { readonly content: { readonly text?: string } };
  };
  return notes.head.length + (request.postData?.text.length ?? 0) + (response.content.text?.length ?? 0) + 4000;
}
