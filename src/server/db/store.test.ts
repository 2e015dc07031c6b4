import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { ANALYSIS_VERSION } from '#core/analysis';
import { EMPTY_DRAFT } from '#core/convert';
import { prepareSearch } from '#core/find';
import { keptFrom, packKept } from '#core/sheet';
import { unpackRows } from '#core/wire';
import { findInCapture } from '../find/find-in-capture';
import { BackgroundDiagnosis } from '../ingest/diagnose-some';
import { importFile } from '../ingest/import-file';
import { reanalyseOutdated } from '../ingest/reanalyse';
import { signSome } from '../ingest/sign';
import { newDataFolder } from '../testing/process';
import { storedFormOf, textOf } from './bodies';
import {
  findByHash,
  findOutdated,
  findRow,
  getOutline,
  listCaptures,
  purgeDeleted,
  readPackedRows,
  readRows,
  setDeleted,
} from './captures';
import { checkStorage } from './check';
import { type Connection, migrateDatabase, openConnection, writeWhenFree } from './connection';
import { listDrafts, writeDraft } from './drafts';
import { findEntry, readEntries } from './entries';
import { beginDiagnosis, findFindings, nextUndiagnosed } from './findings';

let folder: string;
let connection: Connection;
beforeEach(() => {
  folder = newDataFolder();
  connection = openConnection(folder, true);
  migrateDatabase(connection);
});
afterEach(() => connection.sqlite.close());

let count = 0;
function importText(text: string, goOn = () => true): string {
  const captureId = `capture-${count++}`;
  const path = join(folder, `${captureId}.har`);
  writeFileSync(path, text);
  importFile(
    connection,
    { captureId, path, name: captureId, sha256: captureId, fileBytes: text.length, now: count },
    goOn,
  );
  return captureId;
}

const entryOf = (text: string, url = 'https://a.example/') => ({
  startedDateTime: '2026-10-03T09:00:00Z',
  request: { method: 'GET', url },
  response: { status: 200, content: { text } },
});
const harOf = (...entries: unknown[]): string => JSON.stringify({ log: { version: '1.2', entries } });
const rowCount = (table: string): unknown => connection.sqlite.prepare(`select count(*) from ${table}`).pluck().get();

describe('bodies', () => {
  it('give back the very characters that were recorded, whatever they are', () => {
    const text = fc.oneof(
      fc.string({ unit: 'binary' }),
      fc.string({ unit: fc.constantFrom('\ud800', '\udc00', 'a', '\0', '\u{1f600}') }),
      fc.uint8Array().map((bytes) => Buffer.from(bytes).toString('base64')),
      fc.base64String(),
      fc.constantFrom('aGk', 'aGk=\n', 'a-_b', '====', 'aGl='),
    );
    fc.assert(
      fc.property(text, fc.boolean(), (recorded, isBase64) => {
        expect(textOf(storedFormOf(recorded, isBase64))).toBe(recorded);
      }),
    );
  });
});

describe('a stored capture', () => {
  it('gives back its entries and what encloses them as they were read', () => {
    const object = fc.dictionary(fc.string(), fc.jsonValue({ maxDepth: 2 }), { maxKeys: 4 });
    const response = fc.record({
      content: fc.record({ text: fc.string({ unit: 'binary' }), encoding: fc.constantFrom('base64', 'x', undefined) }),
    });
    const entry = fc.tuple(object, response).map(([rest, answer]) => ({ ...rest, response: answer }));
    fc.assert(
      fc.property(fc.array(fc.oneof(entry, fc.jsonValue()), { maxLength: 4 }), object, (entries, extra) => {
        const text = JSON.stringify({ extra, log: { ...extra, entries, pages: [{ id: 'p' }] } });
        const id = importText(text);
        const wanted = JSON.parse(text);
        expect([...readEntries(connection, id)].map(({ value }) => value)).toEqual(wanted.log.entries);
        const { outline, pages } = getOutline(connection, id);
        expect(pages).toEqual([{ id: 'p' }]);
        expect(outline.root[0]).toEqual({ type: 'value', key: 'extra', value: wanted.extra });
      }),
      { numRuns: 40 },
    );
  });

  it('keeps every unknown unknown in its rows', () => {
    const id = importText(harOf({ request: {} }, entryOf('x')));
    const [bare, whole] = readRows(connection, id);
    expect(bare).toMatchObject({
      status: undefined,
      startMs: undefined,
      timeMs: undefined,
      wireBytes: undefined,
      party: undefined,
    });
    expect(whole).toMatchObject({ status: 200, startMs: 0, bodyBytes: 1 });
    expect([1, 2].map((place) => findRow(connection, id, place))).toEqual([whole, undefined]);
    expect(findEntry(connection, id, 2)).toBeUndefined();
  });

  it('is not there at all when its import is stopped, whatever was written by then', () => {
    let chunks = 0;
    const text = harOf(...Array.from({ length: 400 }, (_, at) => entryOf(`${at}`.repeat(4000))));
    expect(() => importText(text, () => ++chunks < 3)).toThrow(/cancelled/);
    for (const table of ['captures', 'entries', 'row_blocks', 'bodies', 'pages', 'analyses'])
      expect(rowCount(table)).toBe(0);
  });
});

describe('deleting', () => {
  it('frees the bodies that nobody else has, and only those', () => {
    const gone = importText(harOf(entryOf('shared'), entryOf('own')));
    const stays = importText(harOf(entryOf('shared')));
    setDeleted(connection, gone, 100);
    expect(listCaptures(connection).map(({ id }) => id)).toEqual([stays]);
    expect(findByHash(connection, gone)).toBeUndefined();
    expect(purgeDeleted(connection, 100)).toBe(0);
    expect(purgeDeleted(connection, 101)).toBe(1);
    expect(rowCount('bodies')).toBe(1);
    expect([...readEntries(connection, stays)].map(({ value }) => value)).toEqual([entryOf('shared')]);
  });

  it('lets others write between its pieces, and keeps what one of them has come to hold', () => {
    const stays = importText(harOf(entryOf('other')));
    const gone = importText(harOf(...Array.from({ length: 2500 }, (_, at) => entryOf(`body ${at}`))));
    while (signSome(connection));
    setDeleted(connection, gone, 100);
    const other = openConnection(folder, false);
    // Once bodies go, one that is to go too.
    const hold = other.sqlite.prepare(
      `update entries set body_sha256 = (select case when count(*) < 2501 then min(sha256) else max(sha256) end from bodies) where capture_id = ?`,
    );
    let held = 0;
    expect(purgeDeleted(connection, 101, () => (held += hold.run(stays).changes))).toBe(1);
    other.sqlite.close();
    // Two pieces of entries, the last of three of bodies, and more.
    expect(held).toBeGreaterThan(4);
    expect([rowCount('entries'), rowCount('signatures'), rowCount('bodies')]).toEqual([1, 1, 2]);
    expect(connection.sqlite.pragma('foreign_key_check')).toEqual([]);
    expect(connection.sqlite.pragma('freelist_count', { simple: true })).toBe(0);
  });
});

describe('the analysis', () => {
  it('is made again for captures that an older version analysed, with the same outcome', () => {
    const id = importText(harOf(entryOf('x', 'https://b.example/'), entryOf('y')));
    const before = { rows: readRows(connection, id), cards: listCaptures(connection) };
    connection.sqlite.prepare(`update analyses set version = ?, overview = '{}'`).run(ANALYSIS_VERSION - 1);
    connection.sqlite.prepare('delete from row_blocks').run();
    expect(findOutdated(connection)).toEqual([id]);
    expect(reanalyseOutdated(connection)).toBe(1);
    expect({ rows: readRows(connection, id), cards: listCaptures(connection) }).toEqual(before);
    expect(reanalyseOutdated(connection)).toBe(0);
  });
});

it('has rows again at the start where an older version kept them in another form', () => {
  const ids = [importText(harOf(entryOf('x'), entryOf('y'))), importText('{"log":{"entries":[]}}')];
  const rowsOf = (id: string) => readRows(connection, id);
  const before = ids.map(rowsOf);
  connection.sqlite.prepare('delete from row_blocks').run();
  expect(ids.map(rowsOf)).toEqual([[], []]);
  expect(checkStorage(folder)).toBeUndefined();
  expect(ids.map(rowsOf)).toEqual(before);
});

describe('a write while another connection holds the database', () => {
  it('waits its turn without blocking, then is done', async () => {
    const id = importText(harOf(entryOf('x')));
    const own = openConnection(folder, false);
    connection.sqlite.exec('begin immediate');
    let isDone = false;
    const writing = writeWhenFree(() => setDeleted(own, id, 5)).then((found) => {
      isDone = found;
    });
    await new Promise((resolve) => setTimeout(resolve, 120));
    expect(isDone).toBe(false);
    connection.sqlite.exec('commit');
    await writing;
    expect(isDone).toBe(true);
    own.sqlite.close();
  });

  it('passes on any other error at once', async () => {
    const broken = (): never => {
      throw new Error('no such table');
    };
    await expect(writeWhenFree(broken)).rejects.toThrow('no such table');
  });
});

it('packs for the page what reading row by row gives', () => {
  const odd = {
    ...entryOf('a', 'https://a.example/"é\u0000\ud800?x=1'),
    time: 0.1 + 0.2,
    timings: { wait: 1 / 3, receive: 1e-7 },
  };
  const ids = [importText(harOf(odd, entryOf('b'), { request: {} })), importText('{"log":{"entries":[]}}')];
  for (const id of ids) {
    const rows = readRows(connection, id);
    expect(unpackRows(readPackedRows(connection, id))).toEqual(rows);
    expect(rows.map(({ index }) => findRow(connection, id, index))).toEqual(rows);
  }
});

it('finds the same in a capture whether it is signed yet or not, and signs each entry once', () => {
  const packed = gzipSync('the hidden stove').toString('base64');
  const id = importText(
    harOf(
      entryOf('a stove and a lamp'),
      entryOf('nothing', 'https://a.example/st%6Fve?q=Stove'),
      {
        ...entryOf(''),
        response: {
          status: 200,
          headers: [{ name: 'Content-Encoding', value: 'gzip' }],
          content: { text: packed, encoding: 'base64' },
        },
      },
      {
        ...entryOf('x'),
        request: {
          url: 'https://a.example/',
          postData: { encoding: 'base64', text: Buffer.from('my stove').toString('base64') },
        },
      },
      entryOf('lone \ud800 stove'),
    ),
  );
  const found = (text: string): number[] => {
    const prepared = prepareSearch({ text, isRegex: false, matchesCase: false, wholeWord: false });
    if (!prepared.ok) throw new Error(text);
    return [...findInCapture(connection, id, prepared.search)].flatMap(({ place, hits }) =>
      hits.length > 0 ? place : [],
    );
  };
  const texts = ['stove', 'a lamp', 'hidden', 'status: 200', 'no response', 'nowhere-at-all'];
  const before = texts.map(found);
  expect(before[0]).toEqual([0, 1, 2, 3, 4]);
  while (signSome(connection)) expect(rowCount('signatures')).toBeGreaterThan(0);
  expect(rowCount('signatures')).toBe(5);
  expect(texts.map(found)).toEqual(before);
});

describe('a diagnosis', () => {
  const runOut = (diagnosis: BackgroundDiagnosis): unknown[] => {
    const told: unknown[] = [];
    for (let step = diagnosis.step(); step !== 'idle'; step = diagnosis.step()) if (step !== 'more') told.push(step);
    return told;
  };

  it('that breaks off is said to, is not tried again, and holds up no other', () => {
    const broken = importText(harOf(entryOf('a')));
    const sound = importText(harOf(entryOf('b')));
    connection.sqlite.prepare("update entries set raw = 'no entry' where capture_id = ?").run(broken);
    const diagnosis = new BackgroundDiagnosis(connection);
    expect(runOut(diagnosis)).toEqual([{ diagnosed: broken, problem: expect.any(String) }, { diagnosed: sound }]);
    expect(findFindings(connection, broken)?.problem).toMatch(/JSON|token/i);
    expect(findFindings(connection, sound)?.problem).toBeUndefined();
    expect(diagnosis.step()).toBe('idle');
  });

  it('that ends with its thread is tried once more, then said to break off, and holds up no other', () => {
    const heavy = importText(harOf(entryOf('a')));
    const other = importText(harOf(entryOf('b')));
    // Begun, and nothing heard of it again.
    for (let thread = 0; thread < 2; thread++) expect(beginDiagnosis(connection, heavy)).toBe(true);
    expect(findFindings(connection, heavy)).toBeUndefined();
    expect(runOut(new BackgroundDiagnosis(connection))).toEqual([
      { diagnosed: heavy, problem: expect.stringContaining('broke off twice') },
      { diagnosed: other },
    ]);
    expect(findFindings(connection, heavy)?.findings).toEqual([]);
  });

  it('that is left as the app is closed, or for one that is waited for, is not compared with its capture', () => {
    const left = importText(harOf(entryOf('a'), entryOf('b', 'https://b.example/')));
    for (let closed = 0; closed < 3; closed++) {
      const diagnosis = new BackgroundDiagnosis(connection);
      // So short a slice that nothing is ended in it.
      vi.spyOn(performance, 'now').mockReturnValueOnce(0).mockReturnValue(1000);
      expect(diagnosis.step()).toBe('more');
      vi.restoreAllMocks();
      if (closed < 2) diagnosis.leave();
      else diagnosis.hasten(importText(harOf(entryOf('c'))));
    }
    const told = runOut(new BackgroundDiagnosis(connection));
    expect(told).toContainEqual({ diagnosed: left });
  });

  it('is never of what was taken off the shelf', () => {
    const gone = importText(harOf(entryOf('a')));
    const stays = importText(harOf(entryOf('b')));
    setDeleted(connection, gone, 5);
    expect(nextUndiagnosed(connection, gone)).toBe(stays);
    expect(runOut(new BackgroundDiagnosis(connection))).toEqual([{ diagnosed: stays }]);
  });
});

it('keeps a draft that another capture has an id of from being written over', () => {
  const [one, other] = [importText(harOf(entryOf('a'))), importText(harOf(entryOf('b')))];
  const draft = (name: string) => packKept(keptFrom('same', name, EMPTY_DRAFT, undefined));
  writeDraft(connection, one, draft('mine'), 1);
  writeDraft(connection, other, draft('theirs'), 2);
  expect(listDrafts(connection, one).drafts.map(({ name }) => name)).toEqual(['mine']);
  expect(listDrafts(connection, other).drafts).toEqual([]);
});
