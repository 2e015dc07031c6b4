import { expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { FactsPool, takeFacts } from './index';

it('shares repeated texts and changes nothing of what is known, unknown texts included', () => {
  const pool = new FactsPool();
  const entry = (referer: string | undefined): JsonObject =>
    ({
      request: {
        method: 'GET',
        url: 'https://a.example/',
        headers: referer === undefined ? [] : [{ name: 'Referer', value: referer }],
      },
      response: { status: 200 },
    }) as unknown as JsonObject;
  for (const referer of ['https://a.example/x', 'https://b.example/y', undefined, 'https://a.example/x']) {
    const facts = takeFacts(normaliseEntry(entry(referer), 3));
    expect(pool.share(facts)).toEqual(facts);
  }
});
