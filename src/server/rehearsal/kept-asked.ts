import type { AskedBatch } from './protocol';
import type { AskedRecord } from './rehearsal-server';

/** So many requests between two messages are kept, and so many bytes of them; those beyond are counted. */
const MOST_AT_ONCE = 200;
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

  /** @param record makes what is told of the request, which takes more time than answering it: not where it is not kept */
  add(isMissed: boolean, record: () => AskedRecord): void {
    this.#asked++;
    if (isMissed) this.#missed++;
    if (this.#records.length >= MOST_AT_ONCE || this.#bytes >= MOST_BYTES || this.#keptInAll >= MOST_KEPT) return;
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
