import { randomUUID } from 'node:crypto';
import { findResponse } from '#core/model';
import { unpackKept } from '#core/sheet';
import type { Run, RunAnswer, RunKind, RunOrder } from '#core/wire';
import type { Connection } from '../db/connection';
import { addStep, type Begun, changeRun, findRun, finishRun, pauseRuns, setRunDeleted, writeRun } from '../db/runs';
import { getExchange } from '../dossier';
import { log } from '../log';
import { ServerProblem } from '../problem';
import { heldOf } from '../send/held';
import { checkWay, placeOf, SAFE, sendable } from '../send/trial';
import type { RunContext } from './context';
import { runGrow } from './grow';
import { Halt } from './halt';
import { RunStopped, Sender, WouldBePrivate } from './sender';
import { loopOf, runSeries } from './series';
import { runTrim } from './trim';
import { runWatch } from './watch';

type Write = <T>(run: (connection: Connection) => T) => Promise<T>;

/** So many run at once; each asks another server many times. */
const MOST_RUNNING = 8;

/** A response that is under way is waited for so long where its run is paused, and where the server is stopped. */
const PAUSE_GRACE_MS = 10_000;
const CLOSE_GRACE_MS = 2000;

/** How each kind of run goes; what is known behind each step is kept, so that it can be gone on with. */
const RUNNERS: {
  readonly [K in RunKind]: (context: RunContext, order: Extract<RunOrder, { kind: K }>) => Promise<void>;
} = {
  trim: runTrim,
  series: runSeries,
  grow: runGrow,
  watch: runWatch,
};

/** How often a run sends at most, for the question before it; undefined where only the responses end it. */
function mostSends(order: RunOrder): number | undefined {
  switch (order.kind) {
    case 'trim':
    case 'watch':
      return order.mostSends;
    case 'series': {
      const loop = loopOf(order);
      return loop.type === 'pages' || loop.type === 'follow' || loop.type === 'values' ? loop.mostPages : undefined;
    }
    case 'grow':
      return undefined;
    default:
      return order satisfies never;
  }
}

interface Running {
  readonly captureId: string;
  readonly draftId: string;
  readonly halt: Halt;
  readonly whole: Promise<void>;
}

/** What sends drafts many times: each run goes on by itself, whoever looks, until it ends, is paused, or the server stops. */
export class RunDesk {
  readonly #connection: Connection;
  readonly #write: Write;
  readonly #running = new Map<string, Running>();

  constructor(connection: Connection, write: Write) {
    this.#connection = connection;
    this.#write = write;
    pauseRuns(connection);
  }

  /** Begins a run, or says what has to be allowed first. @throws ServerProblem where there is nothing to send */
  async begin(captureId: string, begun: Begun): Promise<RunAnswer> {
    const { kept, order, leave } = begun;
    const { draft } = unpackKept(kept);
    const wire = sendable(draft);
    checkWay(kept.way);
    const most = mostSends(order);
    if (leave.unsafe !== true && !SAFE.test(wire.method)) {
      const often = most === undefined ? 'many times' : `up to ${most} times`;
      const sentence = `${wire.method} may change something at ${placeOf(wire, kept.way)}: it would be sent ${often}.`;
      return { type: 'question', question: { about: 'unsafe', sentence } };
    }
    this.#checkRoom();
    const id = randomUUID();
    await this.#write((connection) => writeRun(connection, { id, captureId, begun, startedAt: Date.now() }));
    this.#start(captureId, id);
    return { type: 'started', run: this.get(captureId, id) };
  }

  get(captureId: string, id: string): Run {
    return this.#find(captureId, id).run;
  }

  /** Goes on where a run was paused. */
  async goOn(captureId: string, id: string): Promise<void> {
    const pausing = this.#running.get(id);
    if (pausing?.halt.isAsked === true) await pausing.whole;
    // What was waited for may have been the last.
    const { run } = this.#find(captureId, id);
    if (this.#running.has(id) || run.status === 'ended') return;
    this.#checkRoom();
    await this.#write((connection) =>
      changeRun(connection, id, { status: 'running', sentence: run.sentence, endedAt: null }),
    );
    this.#start(captureId, id);
  }

  /** Has a run send nothing more, for now. */
  pause(id: string): void {
    this.#running.get(id)?.halt.ask(PAUSE_GRACE_MS);
  }

  /** Has nothing more sent for what was deleted: a capture, or one of its drafts. */
  pauseOf(captureId: string, draftId?: string): void {
    for (const running of this.#running.values())
      if (running.captureId === captureId && (draftId === undefined || running.draftId === draftId))
        running.halt.ask(0);
  }

  async remove(captureId: string, id: string, isDeleted: boolean): Promise<void> {
    if (isDeleted) this.#running.get(id)?.halt.ask(0);
    await this.#write((connection) => setRunDeleted(connection, captureId, id, isDeleted ? Date.now() : null));
  }

  /** Pauses what is under way, so that it can be gone on with by the next server. */
  async close(): Promise<void> {
    for (const { halt } of this.#running.values()) halt.ask(CLOSE_GRACE_MS);
    await Promise.all([...this.#running.values()].map(({ whole }) => whole));
  }

  #find(captureId: string, id: string) {
    const found = findRun(this.#connection, captureId, id);
    if (found !== undefined) return found;
    throw new ServerProblem('not-found', 'This run is gone.', 'Begin it again.');
  }

  #checkRoom(): void {
    if (this.#running.size < MOST_RUNNING) return;
    throw new ServerProblem('invalid-input', `${MOST_RUNNING} runs are under way.`, 'Pause one of them, or wait.');
  }

  #start(captureId: string, id: string): void {
    const draftId = this.get(captureId, id).draft;
    const halt = new Halt();
    const whole = this.#run(captureId, id, halt)
      .catch((error: unknown) => log.error({ err: error }, 'a run broke off'))
      .finally(() => this.#running.delete(id));
    this.#running.set(id, { captureId, draftId, halt, whole });
  }

  async #run(captureId: string, id: string, halt: Halt): Promise<void> {
    const { run, begun } = this.#find(captureId, id);
    const change = (values: Parameters<typeof changeRun>[2]): Promise<void> =>
      this.#write((connection) => changeRun(connection, id, values));
    try {
      const context = this.#contextOf(captureId, run, begun, halt);
      await (RUNNERS[run.order.kind] as (context: RunContext, order: RunOrder) => Promise<void>)(context, run.order);
      await change({ status: 'ended', endedAt: Date.now() });
    } catch (error) {
      if (error instanceof RunStopped) await change({ status: 'paused' });
      else if (error instanceof WouldBePrivate) {
        const question = { about: 'private', sentence: error.message } as const;
        await change({ status: 'ended', endedAt: Date.now(), sentence: error.message, result: { question } });
      } else {
        const sentence = error instanceof ServerProblem ? error.message : 'It broke off, through a fault of Trazado.';
        if (!(error instanceof ServerProblem)) log.error({ err: error }, 'a run broke off');
        await change({ status: 'ended', endedAt: Date.now(), sentence });
      }
    }
    const sent = this.get(captureId, id).sends;
    if (sent > 0) await this.#write((connection) => finishRun(connection, id));
  }

  #contextOf(captureId: string, run: Run, { kept: packed, leave }: Begun, halt: Halt): RunContext {
    const kept = unpackKept(packed);
    const captured = kept.exchange === undefined ? undefined : getExchange(this.#connection, captureId, kept.exchange);
    const { id } = run;
    const name = `${NAMES[run.order.kind]} of ${kept.name}`;
    return {
      kept,
      captured,
      sender: new Sender({
        kept,
        captured,
        leave,
        halt,
        onWait: (sentence) => void this.#write((connection) => changeRun(connection, id, { sentence })),
      }),
      result: run.result,
      sent: run.sends,
      stored: (number) => {
        const exchange = getExchange(this.#connection, id, number);
        const response = findResponse(exchange);
        return response === undefined ? undefined : heldOf(response, exchange.request.method);
      },
      keep: async ({ entry, sentAt, wireHash, sheet }, step, result, sentence) => {
        await this.#write((connection) => {
          addStep(connection, { id, name, captureId }, { entry, sentAt, wireHash, sheet, step }, { result, sentence });
        });
      },
      know: (result, sentence) => this.#write((connection) => changeRun(connection, id, { result, sentence })),
    };
  }
}

const NAMES: Readonly<Record<RunKind, string>> = { trim: 'Trim', series: 'Series', grow: 'Growing', watch: 'Watch' };
