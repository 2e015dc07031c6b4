import { setTimeout as pause } from 'node:timers/promises';
import type { ExchangeRow } from '#core/analysis';
import { readBody } from '#core/content';
import type { Draft } from '#core/convert';
import type { Json } from '#core/har';
import type { Exchange } from '#core/model';
import { type SeriesResponse, waitBefore } from '#core/series';
import { type KeptDraft, packKept, type Sheet } from '#core/sheet';
import type { HeldResponse } from '#core/trial';
import type { RunStep, SendLeave, SentSheet } from '#core/wire';
import { formatPlural, formatSpan } from '#core/wording';
import { inflateWithZlib } from '../inflate';
import { rowOf } from '../row-of-entry';
import { entryOf } from '../send/entry';
import { asResponse, heldOf } from '../send/held';
import { sendOnce } from '../send/send';
import { boundsOf, hashOf, sendable } from '../send/trial';
import type { Halt } from './halt';

/** A run that is stopped, paused or deleted sends nothing more. */
export class RunStopped extends Error {}

/** A host that was public in the capture is in a private network now. */
export class WouldBePrivate extends Error {}

/** What came of one request of a run, ready to be kept. */
export interface Heard {
  /** Absent where no response came. */
  readonly response: (SeriesResponse & { readonly held: HeldResponse; readonly bytes: number }) | undefined;
  /** Why none came, or how often it was tried. */
  readonly remark: string;
  readonly url: string;
  readonly entry: Json;
  readonly sentAt: number;
  readonly row: ExchangeRow;
  readonly wireHash: string;
  readonly sheet: SentSheet;
}

interface SenderOrder {
  readonly kept: KeptDraft;
  readonly captured: Exchange | undefined;
  readonly leave: SendLeave;
  readonly halt: Halt;
  /** Hears of a wait that is long enough to be wondered at. */
  readonly onWait: (sentence: string) => void;
}

const LONG_WAIT_MS = 2000;

/** Sends drafts one after the other, each until a response came that counts: who is busy is waited for. */
export class Sender {
  readonly #order: SenderOrder;

  constructor(order: SenderOrder) {
    this.#order = order;
  }

  /** @throws RunStopped, WouldBePrivate, ServerProblem where the draft cannot be sent */
  async send(draft: Draft, sheet: Sheet = this.#order.kept.sheet): Promise<Heard> {
    const { kept, captured, halt, leave, onWait } = this.#order;
    const wire = sendable(draft);
    const bounds = boundsOf(wire, captured, { kept, leave, signal: halt.waiting });
    const tried: string[] = [];
    for (let tries = 1; ; tries++) {
      if (halt.isAsked) throw new RunStopped();
      const sentAt = Date.now();
      const sent = await sendOnce(wire, bounds);
      if (halt.waiting.aborted) throw new RunStopped();
      const { outcome, refusedAddress } = sent;
      if (refusedAddress !== undefined)
        throw new WouldBePrivate(
          `${wire.host} is ${refusedAddress} now, in a private network; it was ${captured?.serverAddress} in the capture. Nothing was sent.`,
        );
      const came = outcome.type === 'none' ? undefined : outcome;
      const wait = waitBefore(tries, came, Date.now());
      if (wait !== undefined) {
        const what = came === undefined ? 'no response' : String(came.status);
        tried.push(wait.isAsked ? `${what} (asked to wait ${formatSpan(wait.ms)})` : what);
        const why = wait.isAsked ? 'as the server asks' : 'before it is asked again';
        if (wait.ms >= LONG_WAIT_MS) onWait(`Waiting ${formatSpan(wait.ms)} ${why} (${what}).`);
        await this.rest(wait.ms);
        continue;
      }
      const entry = entryOf(wire, sent, sentAt);
      const response = came === undefined ? undefined : asResponse(came);
      const again = tried.length === 0 ? '' : ` Tried ${formatPlural(tries, 'time')}: ${tried.join(', ')}, then this.`;
      return {
        response:
          response === undefined || came === undefined
            ? undefined
            : {
                status: came.status,
                headers: came.headers,
                text: readBody(response, inflateWithZlib).text,
                held: heldOf(response, wire.method),
                bytes: came.body.length,
              },
        remark:
          `${outcome.type === 'none' ? outcome.sentence : outcome.broke === undefined ? '' : outcome.broke.sentence}${again}`.trim(),
        url: `${wire.isSecure ? 'https' : 'http'}://${wire.authority}${wire.target}`,
        entry,
        sentAt,
        row: rowOf(entry),
        wireHash: hashOf(wire),
        sheet: { ...packKept({ ...kept, sheet, draft }).sheet, variables: draft.variables },
      };
    }
  }

  /** Waits between two requests. @throws RunStopped */
  async rest(ms: number): Promise<void> {
    try {
      await pause(ms, undefined, { signal: this.#order.halt.sending });
    } catch {
      throw new RunStopped();
    }
  }
}

/** A step of what was heard. */
export const stepOf = (
  { row, remark }: Heard,
  step: Pick<RunStep, 'label' | 'sentence' | 'verdict'> & Partial<Pick<RunStep, 'rows' | 'value'>>,
): Omit<RunStep, 'number' | 'sentAt'> => ({
  ...step,
  row,
  sentence: remark === '' ? step.sentence : `${step.sentence}${/[.!]$/.test(step.sentence) ? '' : '.'} ${remark}`,
});
