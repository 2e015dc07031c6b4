import fc from 'fast-check';
import { expect, it } from 'vitest';
import { analyse, type ExchangeRow, takeFacts } from '../analysis';
import { type JsonObject, normaliseEntry } from '../har';
import { packRows, unpackRows } from './index';

const rowsOf = (entries: readonly object[]): readonly ExchangeRow[] =>
  analyse(
    entries.map((raw, place) => takeFacts(normaliseEntry(raw as JsonObject, place))),
    [],
    { type: 'whole' },
  ).rows;

/** Packed rows as a database hands them out: from anywhere in a buffer. */
function moved(rows: readonly ExchangeRow[], by: number): Uint8Array {
  const packed = packRows(rows);
  const place = new Uint8Array(packed.length + by).subarray(by);
  place.set(packed);
  return place;
}

const maybe = <T>(value: fc.Arbitrary<T>) => fc.option(value, { nil: undefined });

it('gives back the very rows that were packed, with every unknown still unknown', () => {
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
    fc.property(fc.array(entry, { maxLength: 12 }), fc.nat(9), (entries, shift) => {
      const rows = rowsOf(entries);
      expect(unpackRows(moved(rows, shift))).toEqual(rows);
    }),
  );
});

it('keeps every number and every text as it was, whatever the width that the others need', () => {
  const [base] = rowsOf([{ request: { url: 'https://a.example/' } }]);
  const edges = [-128, -127, 127, 128, -32_768, 32_767, -(2 ** 31), 2 ** 31 - 1, 2 ** 31, -0, 2 ** 53, 1e300];
  const number = maybe(fc.oneof(fc.constantFrom(...edges), fc.integer(), fc.double({ noNaN: true })));
  const text = fc.oneof(fc.string({ unit: 'binary' }), fc.constantFrom('', '\ud800', 'é\u0000\n"'));
  const change = fc.record({
    timeMs: number,
    wireBytes: number,
    url: text,
    mimeType: maybe(text),
    isOnRoute: fc.boolean(),
  });
  fc.assert(
    fc.property(fc.array(change, { maxLength: 20 }), (changes) => {
      const rows = changes.map((change) => ({ ...base, ...change }) as ExchangeRow);
      expect(unpackRows(packRows(rows))).toEqual(rows);
    }),
  );
});

it('keeps more rows than one block takes, in their order', () => {
  const [base] = rowsOf([{ request: { url: 'https://a.example/' } }]);
  const rows = Array.from({ length: 9000 }, (_, index) => ({ ...base, index, url: `https://a.example/${index}` }));
  expect(unpackRows(packRows(rows as ExchangeRow[]))).toEqual(rows);
});
