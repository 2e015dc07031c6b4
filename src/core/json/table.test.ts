import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { buildTable, findTables, orderTable, readJsonTree, tableCells } from './index';

const HUTS = JSON.stringify({
  total: 3,
  huts: [
    { name: 'Alba', beds: 10, at: { lat: 42.5, lon: 0.7 }, tags: ['stove'] },
    { name: 'Brisa', beds: 9 },
    { name: 'Cantil', at: { lat: 41 }, open: null },
  ],
  plain: [1, 2, 3, 4, 5],
});

describe('an array of objects as a table', () => {
  const tree = readJsonTree(HUTS);
  const node = findTables(tree)[0]?.node ?? -1;
  const table = buildTable(tree, node);

  it('is offered by its path, and arrays of plain values are not', () => {
    expect(findTables(tree)).toEqual([{ node, rows: 3, path: '$.huts' }]);
  });

  it.each([
    ['[{"a":1},{"a":2},3,4]', 1],
    ['[{"a":1},3,4]', 0],
    ['[{"a":1},{"a":2},3]', 1],
  ])('is one where at least half of its members are objects: %s', (text, count) =>
    expect(findTables(readJsonTree(text))).toHaveLength(count),
  );

  it('offers the longest array first', () => {
    const two = readJsonTree('{"a":[{"x":1}],"b":[{"x":1},{"x":2}]}');
    expect(findTables(two).map(({ path }) => path)).toEqual(['$.b', '$.a']);
  });

  it('has a column for each nested field, in order of appearance', () => {
    expect(table.columns).toEqual(['name', 'beds', 'at.lat', 'at.lon', 'tags', 'open']);
  });

  it('gives each member of a nested list a row of its own where that is asked for', () => {
    const nights = readJsonTree(
      JSON.stringify([
        { hut: 'Alba', nights: [{ on: 'Mon', price: { eur: 34 } }, { on: 'Tue' }], beds: 4 },
        { hut: 'Brisa', nights: [], beds: 2 },
        { hut: 'Cantil' },
        { hut: 'Dos', nights: ['Wed', null] },
      ]),
    );
    expect(buildTable(nights, 0)).toMatchObject({ columns: ['hut', 'nights', 'beds'], lists: ['nights'], rows: 4 });
    const open = buildTable(nights, 0, 'nights');
    expect(open).toMatchObject({ columns: ['hut', 'nights.on', 'nights.price.eur', 'beds', 'nights'], rows: 6 });
    expect(Array.from({ length: 6 }, (_, row) => tableCells(nights, open, row))).toEqual([
      ['Alba', 'Mon', '34', '4', undefined],
      ['Alba', 'Tue', undefined, '4', undefined],
      ['Brisa', undefined, undefined, '2', '[]'],
      ['Cantil', undefined, undefined, undefined, undefined],
      ['Dos', undefined, undefined, undefined, 'Wed'],
      ['Dos', undefined, undefined, undefined, 'null'],
    ]);
    expect(buildTable(nights, 0, 'no such column').rows).toBe(4);
  });

  it('tells a missing field from one that is null', () => {
    expect(tableCells(tree, table, 2)).toEqual(['Cantil', undefined, '41', undefined, undefined, 'null']);
  });

  it('sorts numbers by their value, missing ones last whichever way', () => {
    const beds = table.columns.indexOf('beds');
    expect([...orderTable(tree, table, beds, false)]).toEqual([1, 0, 2]);
    expect([...orderTable(tree, table, beds, true)]).toEqual([0, 1, 2]);
  });

  it('gives for any objects the very values that reading them gives', () => {
    const rows = fc.array(
      fc.dictionary(fc.stringMatching(/^[a-z]{1,3}$/), fc.oneof(fc.integer(), fc.string(), fc.boolean())),
      {
        minLength: 1,
        maxLength: 20,
      },
    );
    fc.assert(
      fc.property(rows, (objects) => {
        const one = readJsonTree(JSON.stringify(objects));
        const whole = buildTable(one, 0);
        for (const [row, object] of objects.entries()) {
          const cells = tableCells(one, whole, row);
          const filled = whole.columns.flatMap((name, at) => (cells[at] === undefined ? [] : [[name, cells[at]]]));
          const wanted = Object.entries(object).map(([name, value]) => [name, String(value)]);
          const isEmpty = wanted.length === 0;
          expect(Object.fromEntries(filled)).toEqual(isEmpty ? { value: '{}' } : Object.fromEntries(wanted));
        }
      }),
    );
  });

  it('says how many columns it leaves out', () => {
    const wide = JSON.stringify([Object.fromEntries(Array.from({ length: 130 }, (_, at) => [`c${at}`, at]))]);
    const one = buildTable(readJsonTree(wide), 0);
    expect([one.columns.length, one.leftOut]).toEqual([120, 10]);
  });
});
