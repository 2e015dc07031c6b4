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

/** Keeps each such text once: reading makes a new one for every exchange, and a large capture has a hundred thousand. */
export class FactsPool {
  readonly #texts = new Map<string, string>();

  share(facts: ExchangeFacts): ExchangeFacts {
    const shared: Record<string, string | undefined> = {};
    for (const field of SHARED) shared[field] = this.#one(facts[field]);
    const { answerClue } = facts;
    if (answerClue === undefined) return { ...facts, ...shared };
    return { ...facts, ...shared, answerClue: { ...answerClue, members: this.#one(answerClue.members) } };
  }

  #one(text: string | undefined): string | undefined {
    if (text === undefined) return undefined;
    const known = this.#texts.get(text);
    if (known !== undefined) return known;
    this.#texts.set(text, text);
    return text;
  }
}
