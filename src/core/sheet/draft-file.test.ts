import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { draftFromExchange, EMPTY_DRAFT } from '../convert';
import { isObject, type Json, NOTE_BEGINS, normaliseEntry } from '../har';
import {
  DraftFileError,
  draftFileToHar,
  draftsFromHar,
  keptFrom,
  packKept,
  readDraftFile,
  readSheet,
  type SharedVariable,
  unpackKept,
  withVariables,
  writeDraftFile,
  writeSheet,
} from './index';

const TOOLS = { inflate: () => undefined };
const { entries } = (
  JSON.parse(readFileSync('demo/captures/booking-gone-wrong.har', 'utf8')) as { log: { entries: Json[] } }
).log;
const exchanges = entries.flatMap((entry, place) => (isObject(entry) ? [normaliseEntry(entry, place)] : []));
const drafts = exchanges.map((exchange) =>
  keptFrom(`id-${exchange.index}`, `draft ${exchange.index}`, draftFromExchange(exchange, 'faithful'), exchange.index),
);
/** What the site knows its walker by, and its sessions: read from the capture's own text. */
const TOKENS = [...new Set(JSON.stringify(entries).match(/eyJ[\w-]+\.eyJ[\w-]+\.[\w-]+/g))];
const COOKIE = 'w-2871-5f0c';

describe('a file of drafts', () => {
  const file = writeDraftFile(drafts, [], TOOLS);
  const text = JSON.stringify(file);

  it('has no secret in it; where one was there is a variable without a value', () => {
    expect(TOKENS).toHaveLength(2);
    expect(JSON.stringify(drafts)).toContain(COOKIE);
    for (const secret of [...TOKENS, COOKIE]) expect(text).not.toContain(secret);
    expect(file.variables.map(({ name, value, isSecret }) => [name, value, isSecret])).toEqual([
      ['token', '', true],
      ['token_2', '', true],
      ['cookie', '', true],
    ]);
    const renewed = file.drafts.find(({ sheet }) => sheet.text.includes('/availability'));
    expect(renewed?.sheet.text).toMatch(/^authorization: Bearer ‹token(?:_2)?›$/m);
  });

  it('is read again: the same requests, whose slots are known', () => {
    const opened = readDraftFile(text);
    for (const [at, packed] of opened.drafts.entries()) {
      const { draft, sheet } = withVariables(unpackKept(packed), opened.variables);
      const before = drafts[at];
      const read = before && unpackKept(packKept(before)).draft;
      const told = (one: typeof draft | undefined) => [one?.method, one?.url, one?.headers.map(({ name }) => name)];
      expect(told(draft)).toEqual(told(read));
      expect(readSheet(sheet, draft).problems.filter(({ bars }) => bars)).toEqual([]);
    }
  });

  it('as HAR is its requests, without a response', () => {
    const har = JSON.parse(draftFileToHar(file, 0)) as { log: { entries: Json[] } };
    expect(har.log.entries).toHaveLength(drafts.length);
    for (const [at, entry] of har.log.entries.entries()) {
      if (!isObject(entry)) throw new Error('an entry is no object');
      const read = normaliseEntry(entry, at);
      expect([read.request.method, read.request.url]).toEqual([drafts[at]?.draft.method, drafts[at]?.draft.url]);
      expect([read.outcome.type, entry['comment' as never]]).toEqual(['unanswered', `${NOTE_BEGINS}draft ${at}`]);
    }
    expect(JSON.stringify(har)).not.toContain(COOKIE);
    let count = 0;
    const back = draftsFromHar(JSON.stringify(har), () => `new-${count++}`);
    expect(back.map(({ id, name, draft }) => [id, name, draft.method, draft.url])).toEqual(
      drafts.map(({ name, draft }, at) => [`new-${at}`, name, draft.method, draft.url]),
    );
  });

  it('takes the values of secret variables out, also where they stand by themselves, and leaves the others', () => {
    const shared: SharedVariable[] = [
      { name: 'key', value: 'q7Rk2uLw9Zx4', isSecret: true },
      { name: 'hut', value: 'alba-norte', isSecret: false },
    ];
    const draft = { ...EMPTY_DRAFT, url: 'https://a.example/‹hut›?again=q7Rk2uLw9Zx4' };
    const kept = { ...keptFrom('x', 'n', draft, undefined), sheet: writeSheet(draft) };
    const written = writeDraftFile([kept], shared, TOOLS);
    expect(JSON.stringify(written)).not.toContain('q7Rk2uLw9Zx4');
    expect(written.variables.slice(0, 2)).toEqual([
      { name: 'key', value: '', isSecret: true },
      { name: 'hut', value: 'alba-norte', isSecret: false },
    ]);
    const har = draftFileToHar(written, 0);
    expect(har).toContain('https://a.example/alba-norte?again=‹key›');
  });

  it.each([
    ['no JSON', '{', /not JSON/],
    ['null', 'null', /holds no requests/],
    ['without requests', '{"log":{"entries":[]}}', /holds no requests/],
    ['a whole capture', JSON.stringify({ log: { entries: new Array(201).fill({}) } }), /drop it on the shelf/],
  ])('of HAR is refused where it is %s', (_, wrong, sentence) => {
    expect(() => draftsFromHar(wrong, () => 'x')).toThrow(sentence);
  });

  it.each([
    ['no JSON', 'GET /', /not JSON/],
    ['a capture', '{"log":{}}', /not saved as drafts/],
    ['null', 'null', /not saved as drafts/],
    ['of a newer version', '{"format":"trazado drafts","version":2,"drafts":[{}],"variables":[]}', /newer Trazado/],
    ['without drafts', '{"format":"trazado drafts","version":1,"drafts":[],"variables":[]}', /holds no drafts/],
  ])('is refused where it is %s', (_, wrong, sentence) => {
    expect(() => readDraftFile(wrong)).toThrow(DraftFileError);
    expect(() => readDraftFile(wrong)).toThrow(sentence);
  });
});
