import { statSync } from 'node:fs';
import { join } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import {
  countKinds,
  findInText,
  type HandOffChoice,
  OwnWordError,
  previewExchange,
  Redactor,
  readOwnWord,
  type SecretStore,
  unreadText,
} from '#core/redact';
import type { HAND_OFF_PHASES, HandOffOrder, ListedSecret, MadeHandOff, ProblemAnswer } from '#core/wire';
import { type Input, UnreadableFile } from '../capture-file';
import { openConnection } from '../db/connection';
import { findEntry } from '../db/entries';
import { readMarks } from '../db/marks';
import { writePieces } from '../write-pieces';
import { Analyst } from './analyst';
import { type Part, partOf, piecesOf } from './part';
import type { FromHandOffWorker, HandOffWorkerData, NamedCapture, ReportJob, ToHandOffWorker } from './protocol';
import { analyseRecorded, proveCapture } from './prove';
import { recordedInStore } from './recorded';
import { findSecretsIn, type RedactOrder, redactedPieces, TOOLS, WordTookTooLong } from './redact';
import { makeReport, type ReportSource } from './report';
import { sentInReport } from './sent';

// The thread that makes what leaves, so that the server's own thread keeps answering; cancelling ends it.

if (parentPort === null) throw new Error('This file is a worker: the server starts it.');
const port = parentPort;
const data = workerData as HandOffWorkerData;
const connection = openConnection(data.dataFolder, true);
const tell = (message: FromHandOffWorker): void => port.postMessage(message);

const TELL_EVERY_MS = 100;
/** So many values of a list are told; more nobody goes through. */
const MOST_LISTED = 2000;

type Phase = (typeof HAND_OFF_PHASES)[number];

/** Tells how far a phase is, now and then. */
function progressOf(phase: Phase, of: number): () => void {
  let done = 0;
  let toldAt = 0;
  return () => {
    done++;
    if (Date.now() - toldAt < TELL_EVERY_MS) return;
    toldAt = Date.now();
    tell({ type: 'progress', phase, share: of === 0 ? 1 : Math.min(1, done / of) });
  };
}

const orderOf = ({ kinds, words, pointed, on, off }: HandOffChoice): RedactOrder => ({
  kinds: new Set(kinds),
  words: words.map(readOwnWord),
  pointed,
  on: new Set(on),
  off: new Set(off),
});

const partOfCapture = (captureId: string, { choice, places }: HandOffOrder): Part =>
  partOf(recordedInStore(connection, captureId), {
    places: places === undefined ? undefined : new Set(places),
    withoutBodies: new Set(choice.withoutBodies),
    blank: new Set(choice.blank),
  });

async function makeCapture(id: string, of: NamedCapture, order: HandOffOrder): Promise<void> {
  const part = partOfCapture(of.captureId, order);
  const count = order.places?.length ?? part.recorded.analyse().rows.length;
  const analyst = new Analyst();
  const recorded = analyseRecorded(part, analyst, data.folder);
  const store = findSecretsIn([part], orderOf(order.choice), progressOf('finding', count));
  findInText(of.name, { type: 'content', text: { type: 'text' } }, store);
  const redactor = new Redactor(store);
  const path = join(data.folder, 'redacted.har');
  writePieces(path, redactedPieces(part, redactor, progressOf('writing', count)));
  const written: Input = { path, shown: 'the redacted capture', damage: undefined };
  const onEntry = progressOf('proving', count);
  const lines = await proveCapture({ store, written, recorded, analyst, onEntry });
  await analyst.close();
  port.on('message', ({ question, place }: ToHandOffWorker) => {
    const entry = findEntry(connection, of.captureId, place);
    const value = entry === undefined ? undefined : part.prepare(entry);
    const preview = value === undefined ? undefined : previewExchange(value, redactor, TOOLS);
    tell({ type: 'preview', question, preview });
  });
  const made: MadeHandOff = {
    id,
    bytes: statSync(path).size,
    ...listsOf(store, redactor),
    unread: unreadText(store.unread),
    inked: [...redactor.byPlace],
    // Behind the lists, which count what was replaced in what leaves.
    name: redactor.text(of.name),
    proof: lines,
  };
  tell({ type: 'made', made });
}

function listsOf(store: SecretStore, redactor: Redactor): Pick<MadeHandOff, 'replaced' | 'left' | 'counts'> {
  const replaced = redactor.replaced.map(({ secret, count, places }): ListedSecret => ({ ...secret, count, places }));
  const left = store.left.map(
    (secret): ListedSecret => ({
      ...secret,
      count: 0,
      places: secret.firstAt === undefined ? [] : [secret.firstAt],
    }),
  );
  return {
    replaced: replaced.slice(0, MOST_LISTED),
    left: left.slice(0, MOST_LISTED),
    counts: {
      replaced: countKinds(redactor.replaced),
      left: countKinds(store.left.map((secret) => ({ secret, count: 0 }))),
    },
  };
}

/** A report is of the whole capture: what it says must not follow from bodies that were left out of a file. */
function makeReportOf(id: string, job: ReportJob, { choice }: HandOffOrder): void {
  const sourceOf = ({ captureId, name }: NamedCapture, page: number | undefined, file: string): ReportSource => {
    const recorded = recordedInStore(connection, captureId);
    const path = join(data.folder, file);
    writePieces(path, piecesOf(partOf(recorded, { withoutBodies: new Set(), blank: new Set() })));
    const input: Input = { path, shown: name, damage: undefined };
    return { input, page, named: name, name, recorded: recorded.analyse() };
  };
  const { of, comparedWith, parts, format, notes } = job;
  const source = sourceOf(of, of.page, 'recorded.har');
  const made = makeReport(
    {
      of: source,
      comparedWith: comparedWith === undefined ? undefined : sourceOf(comparedWith, undefined, 'compared.har'),
      parts: new Set(parts),
      format,
      notes,
      marks: readMarks(connection, of.captureId),
      ...sentInReport(connection, of.captureId),
      withoutBodies: new Set([...choice.withoutBodies, ...choice.blank]),
      redact: orderOf(choice),
    },
    progressOf('finding', source.recorded?.rows.length ?? 0),
  );
  tell({ type: 'written', id, ...made });
  port.close();
}

function problemOf(error: unknown): ProblemAnswer {
  if (error instanceof OwnWordError || error instanceof WordTookTooLong)
    return { code: 'invalid-input', sentence: error.message, advice: 'Change the word.' };
  if (error instanceof UnreadableFile)
    return { code: 'not-found', sentence: error.message, advice: 'Choose another page.' };
  const code = (error as NodeJS.ErrnoException).code;
  if (code === 'ENOSPC')
    return { code: 'storage-full', sentence: 'The disk is full.', advice: 'Make room and try again.' };
  return {
    code: 'internal',
    sentence: `It could not be made, through a fault of Trazado: ${error instanceof Error ? error.message : String(error)}.`,
    advice: 'Nothing has left.',
  };
}

try {
  if (data.task === 'capture') await makeCapture(data.id, data.of, data.order);
  else makeReportOf(data.id, data.job, data.order);
} catch (error) {
  tell({ type: 'failed', problem: problemOf(error) });
  port.close();
}
