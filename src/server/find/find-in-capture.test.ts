import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { prepareSearch } from '#core/find';
import { type JsonObject, normaliseEntry } from '#core/har';
import { migrateDatabase, openConnection } from '../db/connection';
import { importFile } from '../ingest/import-file';
import { signSome } from '../ingest/sign';
import { newDataFolder } from '../testing/process';
import { findIn, findInCapture } from './find-in-capture';

// What is left out unread, by signatures and by what an entry's JSON holds, is held against reading everything.

const text = fc.string({ unit: fc.constantFrom(...'abAB01"\\/:=& \té\u0000%{}[],'), maxLength: 14 });
const entry = fc
  .record({
    path: text,
    headers: fc.array(fc.record({ name: text, value: text }), { maxLength: 3 }),
    statusText: text,
    payload: text,
    body: text,
  })
  .map(({ path, headers, statusText, payload, body }) => ({
    request: {
      method: 'POST',
      url: `https://a.example/${path}`,
      headers,
      postData: { mimeType: 'text/plain', text: payload },
    },
    response: { status: 404, statusText, headers, content: { mimeType: 'text/plain', text: body } },
  }));

type Made = typeof entry extends fc.Arbitrary<infer One> ? One : never;

/** Every text of an entry in which something can be found. */
const textsOf = ({ request, response }: Made): string[] => [
  `${request.method} ${request.url}`,
  ...request.headers.map(({ name, value }) => `${name}: ${value}`),
  request.postData.text,
  `${response.status} ${response.statusText}`,
  response.content.text,
];

it('finds whatever reading every entry finds, signed and unsigned, whole and in shares', () => {
  const folder = newDataFolder();
  const connection = openConnection(folder, true);
  migrateDatabase(connection);
  let imported = 0;
  fc.assert(
    fc.property(
      fc.array(entry, { minLength: 1, maxLength: 4 }),
      fc.tuple(fc.nat(), fc.nat(), fc.nat(), fc.integer({ min: 1, max: 9 })),
      fc.boolean(),
      (entries, [which, what, from, length], matchesCase) => {
        const chosen = entries[which % entries.length] as Made;
        const texts = textsOf(chosen).filter((one) => one !== '');
        const whole = texts[what % texts.length] ?? '';
        const sought = whole.slice(from % whole.length).slice(0, length);
        const prepared = prepareSearch({ text: sought, isRegex: false, matchesCase, wholeWord: false });
        if (!prepared.ok) throw new Error(sought);
        const { search } = prepared;
        const id = `c${imported++}`;
        const path = join(folder, 'one.har');
        writeFileSync(path, JSON.stringify({ log: { entries } }));
        importFile(connection, { captureId: id, path, name: id, sha256: id, fileBytes: 1, now: 0 }, () => true);
        const read = entries.flatMap((one, place) => {
          const bytes = Buffer.from(one.response.content.text);
          const exchange = normaliseEntry(structuredClone(one) as unknown as JsonObject, place);
          return findIn(exchange, bytes.length === 0 ? undefined : { bytes, isDecodedText: true }, search);
        });
        const found = () => [...findInCapture(connection, id, search)].flatMap(({ hits }) => hits);
        const inShares = [0, 1].flatMap((part) => [...findInCapture(connection, id, search, { part, of: 2 })]);
        expect(found()).toEqual(read);
        expect(inShares.flatMap(({ hits }) => hits)).toEqual(read);
        while (signSome(connection));
        expect(found()).toEqual(read);
      },
    ),
    { numRuns: 150 },
  );
  connection.sqlite.close();
});
