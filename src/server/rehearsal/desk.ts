import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { Rehearsal, RehearsalOrder } from '#core/wire';
import type { Connection } from '../db/connection';
import {
  addAsked,
  endRehearsal,
  findRehearsal,
  listRehearsals,
  runningRehearsals,
  setRehearsalDeleted,
  writeRehearsal,
} from '../db/rehearsals';
import { log } from '../log';
import { findPackageRoot } from '../package-root';
import { ServerProblem } from '../problem';
import { rowOf } from '../row-of-entry';
import type { Begun, FromRehearsalWorker, RehearsalWorkerData, ToRehearsalWorker } from './protocol';

type Write = <T>(run: (connection: Connection) => T) => Promise<T>;

/** So many run at once. */
const MOST_RUNNING = 10;

interface Running {
  readonly captureId: string;
  readonly worker: Worker;
  readonly begun: Begun;
  readonly ended: Promise<void>;
}

/** The rehearsals that run, each a server in a thread of its own. */
export class RehearsalDesk {
  readonly #connection: Connection;
  readonly #dataFolder: string;
  readonly #write: Write;
  readonly #running = new Map<string, Running>();

  constructor(connection: Connection, dataFolder: string, write: Write) {
    this.#connection = connection;
    this.#dataFolder = dataFolder;
    this.#write = write;
    for (const id of runningRehearsals(connection)) endRehearsal(connection, id, 'It stopped with the server.');
  }

  /** Starts a rehearsal of a capture; it listens once this resolves. @throws ServerProblem */
  async begin(captureId: string, captureName: string, order: RehearsalOrder): Promise<Rehearsal> {
    if (this.#running.size >= MOST_RUNNING)
      throw new ServerProblem('invalid-input', `${MOST_RUNNING} rehearsals are running.`, 'Stop one of them.');
    const id = randomUUID();
    const of = { id, captureId, name: `Rehearsal of ${captureName}` };
    await this.#write((connection) => writeRehearsal(connection, { id, captureId, order, startedAt: Date.now() }));
    const workerData: RehearsalWorkerData = { dataFolder: this.#dataFolder, captureId, order };
    const worker = new Worker(join(findPackageRoot(), 'dist/node/rehearsal-worker.js'), { workerData });
    let writes = Promise.resolve();
    let problem: string | undefined;
    const begun = new Promise<Begun>((resolve, reject) => {
      worker.on('message', (message: FromRehearsalWorker) => {
        if (message.type === 'listening') resolve(message);
        else if (message.type === 'failed') reject(new ServerProblem('internal', message.sentence, 'Try it again.'));
        else if (message.type === 'asked') {
          const { records, ...counted } = message;
          const asked = records.map(({ entry, notes }) => ({ entry, notes, row: rowOf(entry) }));
          writes = writes
            .then(() => this.#write((connection) => addAsked(connection, of, asked, counted)))
            .catch(tellLost);
        }
      });
      worker.on('error', (error) => {
        problem = `It broke off: ${error.message}.`;
        reject(new ServerProblem('internal', problem, 'Try it again.'));
      });
    });
    const ended = new Promise<void>((resolve) => {
      worker.on('exit', () => {
        this.#running.delete(id);
        void writes
          .then(() => this.#write((connection) => endRehearsal(connection, id, problem)))
          .catch(tellLost)
          .finally(resolve);
      });
    });
    try {
      this.#running.set(id, { captureId, worker, begun: await begun, ended });
    } catch (error) {
      await this.#write((connection) => setRehearsalDeleted(connection, captureId, id, 0));
      throw error;
    }
    return this.get(captureId, id);
  }

  get(captureId: string, id: string): Rehearsal {
    const found = findRehearsal(this.#connection, captureId, id);
    if (found === undefined) throw new ServerProblem('not-found', 'This rehearsal is gone.', 'Begin another one.');
    return this.#withPlace(found);
  }

  /** The rehearsals of a capture, the newest first. */
  list = (captureId: string): Rehearsal[] =>
    listRehearsals(this.#connection, captureId).map((rehearsal) => this.#withPlace(rehearsal));

  /** All that run, of whichever capture. */
  running(): Rehearsal[] {
    return [...this.#running].flatMap(([id, { captureId }]) => {
      const found = findRehearsal(this.#connection, captureId, id);
      return found === undefined ? [] : [this.#withPlace(found)];
    });
  }

  /** Stops a rehearsal; what it was asked is there once this resolves. */
  async stop(id: string): Promise<void> {
    const running = this.#running.get(id);
    if (running === undefined) return;
    running.worker.postMessage({ does: 'stop' } satisfies ToRehearsalWorker);
    await running.ended;
  }

  /** Has a rehearsal give the first of several responses again. */
  rewind(id: string): void {
    this.#running.get(id)?.worker.postMessage({ does: 'rewind' } satisfies ToRehearsalWorker);
  }

  /** Stops those of a capture that is deleted. */
  async stopOf(captureId: string): Promise<void> {
    const own = [...this.#running].filter(([, running]) => running.captureId === captureId);
    await Promise.all(own.map(([id]) => this.stop(id)));
  }

  async remove(captureId: string, id: string, isDeleted: boolean): Promise<void> {
    if (isDeleted) await this.stop(id);
    await this.#write((connection) => setRehearsalDeleted(connection, captureId, id, isDeleted ? Date.now() : null));
  }

  async close(): Promise<void> {
    await Promise.all([...this.#running.keys()].map((id) => this.stop(id)));
  }

  #withPlace(rehearsal: Rehearsal): Rehearsal {
    const begun = this.#running.get(rehearsal.id)?.begun;
    if (begun === undefined) return rehearsal;
    const { port, addresses, pageUrl, certificate } = begun;
    return {
      ...rehearsal,
      port,
      addresses,
      ...(pageUrl === undefined ? {} : { pageUrl }),
      ...(certificate === undefined ? {} : { certificate }),
    };
  }
}

const tellLost = (error: unknown): void => log.error({ err: error }, 'what a rehearsal was asked could not be kept');
