import { readFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { expect, it, vi } from 'vitest';
import { Diagnoser } from '#core/diagnose';
import { readRows } from '../db/captures';
import { migrateDatabase, openConnection } from '../db/connection';
import { entryWriter, prepareEntry } from '../db/entries';
import { hasFindings } from '../db/findings';
import { newDataFolder } from '../testing/process';
import { BackgroundDiagnosis } from './diagnose-some';
import { importFile } from './import-file';
import { reanalyse } from './reanalyse';

const open = () => {
  const connection = openConnection(newDataFolder(), true);
  migrateDatabase(connection);
  const take = (id: string, path: string): void => {
    const order = { captureId: id, path, name: id, sha256: id, fileBytes: readFileSync(path).length, now: Date.now() };
    importFile(connection, order, () => true);
  };
  take('one', 'demo/captures/alba-norte-first-visit.har');
  take('two', 'demo/captures/alba-norte-second-visit.har');
  take('three', 'demo/captures/booking-gone-wrong.har');
  return { connection, diagnosis: new BackgroundDiagnosis(connection) };
};

it('ends every capture that somebody waits for, however often they are asked for in turn', () => {
  const { connection, diagnosis } = open();
  const ended: string[] = [];
  for (let steps = 0; steps < 10_000 && ended.length < 2; steps++) {
    // Two pages ask again and again, each for its own.
    diagnosis.hasten('two');
    diagnosis.hasten('one');
    const step = diagnosis.step();
    if (typeof step === 'object') ended.push(step.diagnosed);
  }
  expect(ended).toEqual(['two', 'one']);
  expect(['one', 'two', 'three'].map((id) => hasFindings(connection, id))).toEqual([true, true, false]);
  connection.sqlite.close();
});

it('takes what is waited for before what is under way and nobody waits for', () => {
  const { connection, diagnosis } = open();
  expect(diagnosis.step()).toBe('more');
  diagnosis.hasten('three');
  diagnosis.hasten('no such capture');
  const ended: string[] = [];
  for (let step = diagnosis.step(); step !== 'idle'; step = diagnosis.step()) {
    if (typeof step === 'object') ended.push(step.diagnosed);
  }
  expect(ended).toEqual(['three', 'one', 'two']);
  connection.sqlite.close();
});

it('leaves the database to others while it computes, and begins anew where the capture changed', () => {
  const { connection, diagnosis } = open();
  const other = openConnection(dirname(connection.sqlite.name), false);
  const late = prepareEntry({ request: { method: 'GET', url: 'https://late.example/' } }, 10_000);
  const end = vi.spyOn(Diagnoser.prototype, 'end').mockImplementationOnce(function (this: Diagnoser, ...ofCapture) {
    entryWriter(other, 'two')(late);
    reanalyse(other, 'two');
    return this.end(...ofCapture);
  });
  diagnosis.hasten('two');
  let step = diagnosis.step();
  while (step === 'more') step = diagnosis.step();
  expect(step).toEqual({ diagnosed: 'two' });
  expect(readRows(connection, 'two').at(-1)?.url).toBe('https://late.example/');
  end.mockRestore();
  other.sqlite.close();
  connection.sqlite.close();
});
