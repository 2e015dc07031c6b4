import type { Diagnoser } from '#core/diagnose';
import { isObject, normaliseEntry, normalisePage } from '#core/har';
import { packBlocks } from '#core/wire';
import { findCapture, getOutline, readRows, writeAnalysis } from '../db/captures';
import type { Connection } from '../db/connection';
import { readEntries, type StoredEntry } from '../db/entries';
import { beginDiagnosis, dropFindings, isUnderWay, nextUndiagnosed, writeFindings } from '../db/findings';
import { beginReading } from '../diagnose';

/** Why a capture is not tried again whose diagnosis took the thread down with it. */
const DIED_TWICE = 'Reading its bodies broke off twice, as it does where memory runs out';

/** Other work waits no longer than this. */
const SLICE_MS = 30;

interface Running {
  readonly captureId: string;
  readonly diagnoser: Diagnoser;
  readonly entries: Generator<StoredEntry>;
}

/** Diagnoses captures one after the other, a little at a time, behind the back of imports. */
export class BackgroundDiagnosis {
  readonly #connection: Connection;
  #running: Running | undefined;
  /** Captures whose findings somebody waits for, the longest waiting first. */
  readonly #awaited: string[] = [];

  constructor(connection: Connection) {
    this.#connection = connection;
  }

  /**
   * Takes a capture before those that nobody waits for, behind those that somebody does. One that is under way and not waited
   * for begins anew later; one that is waited for is ended first, or two that are asked for in turn would never end.
   */
  hasten(captureId: string): void {
    if (!this.#awaited.includes(captureId)) this.#awaited.push(captureId);
    const running = this.#running?.captureId;
    if (running !== undefined && !this.#awaited.includes(running)) this.leave();
  }

  /** Leaves what is under way: it begins anew another time. */
  leave(): void {
    if (this.#running === undefined) return;
    dropFindings(this.#connection, this.#running.captureId);
    this.#running = undefined;
  }

  /** Goes on for a moment. Gives the capture that was ended in it, well or not, "more" to be called again, or "idle". */
  step(): { readonly diagnosed: string; readonly problem?: string } | 'more' | 'idle' {
    const captureId = this.#running?.captureId ?? this.#next();
    if (captureId === undefined) return 'idle';
    try {
      this.#running ??= this.#start(captureId);
      return this.#goOn(this.#running);
    } catch (error) {
      // One that breaks the rules is said to; it would break them again. One that was deleted under way leaves nothing.
      this.#running = undefined;
      const problem = error instanceof Error ? error.message : String(error);
      if (findCapture(this.#connection, captureId) !== undefined) {
        writeFindings(this.#connection, captureId, { findings: [], byPage: {}, problem });
      }
      return { diagnosed: captureId, problem };
    }
  }

  /** The next capture: the first that is waited for and still to be diagnosed, else the oldest. */
  #next(): string | undefined {
    for (let awaited = this.#awaited[0]; awaited !== undefined; awaited = this.#awaited[0]) {
      const next = nextUndiagnosed(this.#connection, awaited);
      if (next === awaited) return next;
      // It is diagnosed by now, or gone.
      this.#awaited.shift();
    }
    return nextUndiagnosed(this.#connection);
  }

  #goOn({ captureId, diagnoser, entries }: Running): { readonly diagnosed: string } | 'more' {
    const until = performance.now() + SLICE_MS;
    while (performance.now() < until) {
      const next = entries.next();
      if (next.done === true) {
        this.#running = undefined;
        return this.#end(captureId, diagnoser) ? { diagnosed: captureId } : 'more';
      }
      const { value, place } = next.value;
      if (isObject(value)) diagnoser.add(normaliseEntry(value, place));
    }
    return 'more';
  }

  #start(captureId: string): Running {
    if (!beginDiagnosis(this.#connection, captureId)) throw new Error(DIED_TWICE);
    const diagnoser = beginReading(readRows(this.#connection, captureId));
    return { captureId, diagnoser, entries: readEntries(this.#connection, captureId) };
  }

  /**
   * Computes what was found and keeps it. The database is held for the writing alone: computing takes seconds where a capture
   * is large. False where the capture changed meanwhile; then it begins anew.
   */
  #end(captureId: string, diagnoser: Diagnoser): boolean {
    const connection = this.#connection;
    const { pages, completeness } = getOutline(connection, captureId);
    const { rows, overview, found } = diagnoser.end(pages.map(normalisePage), completeness);
    const blocks = packBlocks(rows);
    return connection.sqlite
      .transaction(() => {
        if (!isUnderWay(connection, captureId)) return false;
        writeAnalysis(connection, captureId, blocks, overview);
        writeFindings(connection, captureId, { ...found, problem: undefined });
        return true;
      })
      .immediate();
  }
}
