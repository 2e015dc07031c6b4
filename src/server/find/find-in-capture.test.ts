import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { prepareSearch } from '#core/find';
import { type JsonObject, misreadText, normaliseEntry } from '#core/har';
import { migrateDatabase, openConnection } from '../db/connection';
import { importFile } from '../ingest/import-file';
import { signSome } from '../ingest/sign';
import { newDataFolder } from '../testing/process';
import { findIn, findInCapture } from './find-in-capture';
import { keptBody } from './texts';

// What is left out unread, by signatures and by what an entry's JSON holds, is held against reading everything.

const text = fc.string({ unit: fc.constantFrom(...'abAB01"\\/:=& \té€\u0000%{}[],'), maxLength: 14 });
const entry = fc
  .record({
    path: text,
    headers: fc.array(fc.record({ name: text, value: text }), { maxLength: 3 }),
    statusText: text,
    payload: text,
    body: text,
    isMisread: fc.boolean(),
  })
  .map(({ path, headers, statusText, payload, body, isMisread }) => ({
    _sent: body,
    request: {
      method: 'POST',
      url: `https://a.example/${path}`,
      headers,
      postData: { mimeType: 'text/plain', text: payload },
    },
    response: {
      status: 404,
      statusText,
      headers,
      content: { mimeType: 'text/plain', text: isMisread ? misreadText(body) : body },
    },
  }));

type Made = typeof entry extends fc.Arbitrary<infer One> ? One : never;

/** Every text of an entry in which something can be found. */
const textsOf = ({ _sent, request, response }: Made): string[] => [
  `${request.method} ${request.url}`,
  ...request.headers.map(({ name, value }) => `${name}: ${value}`),
  request.postData.text,
  `${response.status} ${response.statusText}`,
  _sent,
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
          const exchange = normaliseEntry(structuredClone(one) as unknown as JsonObject, place);
          return findIn(exchange, keptBody(exchange), search);
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

it('finds what was sent where the recorder took it for something else', () => {
  const connection = openConnection(newDataFolder(), true);
  migrateDatabase(connection);
  const path = join(newDataFolder(), 'one.har');
  const content = { mimeType: 'text/event-stream', text: misreadText('data: Peña – Alta\n\n') };
  const request = { method: 'GET', url: 'https://a.example/events', headers: [] };
  writeFileSync(
    path,
    JSON.stringify({ log: { entries: [{ request, response: { status: 200, headers: [], content } }] } }),
  );
  importFile(connection, { captureId: 'a', path, name: 'a', sha256: 'a', fileBytes: 1, now: 0 }, () => true);
  for (const matchesCase of [true, false]) {
    const prepared = prepareSearch({ text: 'Peña – A', isRegex: false, matchesCase, wholeWord: false });
    if (!prepared.ok) throw new Error('no search');
    const hits = [...findInCapture(connection, 'a', prepared.search)].flatMap((searched) => searched.hits);
    expect(hits.map(({ before, match, after }) => [before, match, after])).toEqual([['data: ', 'Peña – A', 'lta ']]);
  }
  connection.sqlite.close();
});
