import { TextPool } from '../collections';
import type { ExchangeFacts } from './facts';

/** Texts of which a capture has few, each in thousands of exchanges. */
const SHARED = [
  'method',
  'host',
  'protocol',
  'mimeType',
  'kindEvidence',
  'sourceEvidence',
  'connection',
  'initiatorUrl',
  'referer',
  'frame',
] as const satisfies readonly (keyof ExchangeFacts)[];

/** Keeps each such text once. */
export class FactsPool {
  readonly #texts = new TextPool();

  share(facts: ExchangeFacts): ExchangeFacts {
    const shared: Record<string, string | undefined> = {};
    for (const field of SHARED) shared[field] = this.#one(facts[field]);
    const { answerClue } = facts;
    if (answerClue === undefined) return { ...facts, ...shared };
    return { ...facts, ...shared, answerClue: { ...answerClue, members: this.#one(answerClue.members) } };
  }

  #one(text: string | undefined): string | undefined {
    return text === undefined ? undefined : this.#texts.one(text);
  }
}
