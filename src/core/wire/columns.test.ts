import fc from 'fast-check';
import { expect, it } from 'vitest';
import { analyse, takeFacts } from '../analysis';
import { type JsonObject, normaliseEntry } from '../har';
import { packRows, unpackRows } from './index';

it('gives back the very rows that were packed, with every unknown still unknown', () => {
  const maybe = <T>(value: fc.Arbitrary<T>) => fc.option(value, { nil: undefined });
  const entry = fc.record({
    startedDateTime: maybe(fc.constantFrom('2026-10-03T09:00:00Z', '2026-10-03T09:00:01.5Z')),
    request: fc.record({
      method: fc.constantFrom('GET', 'POST'),
      url: fc.constantFrom('https://a.example/x', 'https://b.example/', 'no address'),
    }),
    response: fc.record({
      status: maybe(fc.constantFrom(0, 200, 304, 404)),
      content: fc.record({ size: maybe(fc.nat()), mimeType: maybe(fc.string()) }),
    }),
    timings: fc.record({ wait: maybe(fc.nat(500)), receive: maybe(fc.nat(500)) }),
    _resourceType: maybe(fc.constantFrom('document', 'image')),
  });
  fc.assert(
    fc.property(fc.array(entry, { maxLength: 12 }), (entries) => {
      const facts = entries.map((raw, place) => takeFacts(normaliseEntry(raw as unknown as JsonObject, place)));
      const { rows } = analyse(facts, [], { type: 'whole' });
      // Through JSON, as it travels.
      expect(unpackRows(JSON.parse(JSON.stringify(packRows(rows))))).toEqual(rows);
    }),
  );
});
