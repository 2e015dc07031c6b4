import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Json } from '#core/har';
import { newDataFolder } from '../testing/process';
import { findCapture, listCaptures, purgeDeleted, setDeleted } from './captures';
import { type Connection, migrateDatabase, openConnection } from './connection';
import { dropDraft, listDrafts, writeDraft } from './drafts';
import { captures, drafts } from './schema';
import { addTrial, changeTrial, findSent, listTrials, MOST_TRIAL_BYTES, purgeTrials, sameTrials } from './trials';

let connection: Connection;
beforeEach(() => {
  connection = openConnection(newDataFolder(), true);
  migrateDatabase(connection);
  for (const id of ['capture', 'other']) {
    connection.db
      .insert(captures)
      .values({ id, name: id, sha256: id, fileBytes: 0, importedAt: 1, outline: '{}', completeness: '{}' })
      .run();
  }
});
afterEach(() => connection.sqlite.close());

const DRAFT = { id: 'draft', name: 'huts', captureId: 'capture' };
const count = (table: string): unknown => connection.sqlite.prepare(`select count(*) from ${table}`).pluck().get();
const trial = (body: string, sentAt = 1, wireHash = 'same') => ({
  entry: {
    startedDateTime: '2026-10-05T08:00:00.000Z',
    request: { method: 'GET', url: 'https://a.example/' },
    response: { status: 200, content: { text: body } },
  } as unknown as Json,
  sentAt,
  sheet: { text: 'GET https://a.example', layout: 'plain', attachments: [], variables: [] } as const,
  wireHash,
  notes: { verdict: 'same', sentence: '200, as captured.', changed: 'unchanged', remarks: [] } as const,
});
const numbers = (): number[] => listTrials(connection, 'draft').map(({ number }) => number);

describe('trials', () => {
  it('are numbered, listed the newest first, and known by what was sent', () => {
    for (const [body, hash] of [
      ['a', 'x'],
      ['b', 'y'],
      ['c', 'x'],
    ] as const)
      addTrial(connection, DRAFT, trial(body, 1, hash));
    expect(numbers()).toEqual([3, 2, 1]);
    expect(sameTrials(connection, 'draft', 'x')).toEqual([1, 3]);
    expect(findSent(connection, 'draft', 2)).toMatchObject({ wireHash: 'y', sheet: { text: 'GET https://a.example' } });
    expect(findSent(connection, 'draft', 9)).toBeUndefined();
    expect(listTrials(connection, 'draft')[0]?.row).toMatchObject({ status: 200, index: 3 });
  });

  it('that were deleted are gone for good after their time, with bodies that nobody else has', () => {
    for (const body of ['shared', 'shared', 'own']) addTrial(connection, DRAFT, trial(body));
    changeTrial(connection, 'draft', 2, { deletedAt: 100 });
    changeTrial(connection, 'draft', 3, { deletedAt: 100 });
    expect(numbers()).toEqual([1]);
    expect(purgeTrials(connection, 100)).toBe(0);
    changeTrial(connection, 'draft', 2, { deletedAt: null });
    expect(purgeTrials(connection, 101)).toBe(1);
    expect(numbers()).toEqual([2, 1]);
    expect([count('bodies'), count('entries'), count('row_blocks')]).toEqual([1, 2, 1]);
    expect(changeTrial(connection, 'draft', 3, { deletedAt: null })).toBe(false);
  });

  it('take no more room than is said: the oldest go, the newest stays however large it is', () => {
    const half = 'x'.repeat(MOST_TRIAL_BYTES / 2);
    addTrial(connection, DRAFT, trial(`1${half}`));
    addTrial(connection, DRAFT, trial('small'));
    expect(addTrial(connection, DRAFT, trial(`3${half}`)).dropped).toBe(1);
    expect(numbers()).toEqual([3, 2]);
    // What was dropped is not only off the list.
    expect(count('bodies')).toBe(2);
    expect(addTrial(connection, DRAFT, trial(`4${half}${half}`)).dropped).toBe(2);
    expect(numbers()).toEqual([4]);
    expect(count('bodies')).toBe(1);
  });

  it('go with their capture and with their draft, and are on no shelf', () => {
    const draft = (id: string) => ({
      id,
      name: 'huts',
      exchange: undefined,
      sheet: { text: 'GET https://a.example', layout: 'plain', attachments: [] } as const,
      draft: { headers: [], variables: [], wantsCompressed: true, answer: 'text', notes: [] } as const,
    });
    writeDraft(connection, 'capture', draft('draft'), 1);
    addTrial(connection, DRAFT, trial('a'));
    expect(listCaptures(connection)).toEqual([]);
    dropDraft(connection, 'capture', 'draft', 50);
    expect(findCapture(connection, 'draft')).toBeUndefined();
    writeDraft(connection, 'capture', draft('draft'), 60);
    expect(findCapture(connection, 'draft')?.name).toBe('Trials of huts');
    setDeleted(connection, 'capture', 100);
    purgeDeleted(connection, 101);
    expect([count('trials'), count('entries'), count('bodies'), count('drafts')]).toEqual([0, 0, 0, 0]);
  });

  it('of a draft of another capture, or under the id of a capture, are not written', () => {
    addTrial(connection, DRAFT, trial('a'));
    for (const wrong of [
      { ...DRAFT, captureId: 'other' },
      { ...DRAFT, id: 'other' },
    ])
      expect(() => addTrial(connection, wrong, trial('b'))).toThrow('This draft is not of this capture.');
    expect(numbers()).toEqual([1]);
    expect(count('entries')).toBe(1);
  });
});

describe('drafts of an older version', () => {
  const old = (id: string, hut: string) =>
    JSON.stringify({
      id,
      name: id,
      exchange: 3,
      spareQuery: ['day=1'],
      draft: {
        method: 'POST',
        url: 'https://a.example/{{hut}}?x={{none}}',
        headers: [{ name: 'X-Hut', value: '{{hut}}', role: 'own', kept: false, reason: 'set by hand' }],
        payload: { type: 'text', text: '{"hut":"{{hut}}"}' },
        variables: [{ name: 'hut', value: hut, isSecret: false }],
        wantsCompressed: true,
        answer: 'json',
        notes: [],
      },
    });

  it('are read as sheets, their variables as those of the capture', () => {
    for (const [at, [id, hut]] of [
      ['one', 'alba'],
      ['two', 'jara'],
    ].entries())
      connection.db
        .insert(drafts)
        .values({ id: id ?? '', captureId: 'capture', draft: old(id ?? '', hut ?? ''), begunAt: at })
        .run();
    const read = listDrafts(connection, 'capture');
    expect(read.variables.map(({ name, value }) => `${name}=${value}`)).toEqual(['hut=alba', 'hut_2=jara']);
    expect(read.drafts.map(({ sheet }) => sheet.text)).toEqual(
      ['hut', 'hut_2'].map((name) =>
        [
          'POST https://a.example',
          `/‹${name}›`,
          '?x={{none}}',
          '✗ &day=1',
          '',
          `✗ X-Hut: ‹${name}›`,
          '',
          '{',
          `  "hut": "‹${name}›"`,
          '}',
        ].join('\n'),
      ),
    );
    // Written back as it is read, it is read the same.
    for (const kept of read.drafts) writeDraft(connection, 'capture', kept, 9);
    expect(listDrafts(connection, 'capture')).toEqual(read);
  });
});
