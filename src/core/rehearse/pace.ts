import type { Exchange, StreamMessage } from '../model';

/** How long a rehearsal takes: as captured times a factor. 0 is no time at all, 1 as captured, 2 twice as long. */
export type TimeFactor = number;

/** When a response begins, and how long it takes to come. In ms. */
export interface Pace {
  readonly waitMs: number;
  readonly receiveMs: number;
}

/** Longer waits are not played: nobody sits through them. */
const LONGEST_MS = 120_000;

/** What a server took for an exchange: not the queue and the connection before it. Unknown times are none. */
export function paceOf({ phases, timeMs }: Pick<Exchange, 'phases' | 'timeMs'>, factor: TimeFactor): Pace {
  const isKnown = phases.waitMs !== undefined || phases.receiveMs !== undefined;
  const waitMs = isKnown ? (phases.sendMs ?? 0) + (phases.waitMs ?? 0) : (timeMs ?? 0);
  const bounded = (ms: number): number => Math.min(LONGEST_MS, Math.max(0, ms * factor));
  return { waitMs: bounded(waitMs), receiveMs: bounded(phases.receiveMs ?? 0) };
}

/** What is played on an open socket or event stream, in its order. */
export interface PlayedMessage {
  readonly message: StreamMessage;
  /** Since it was opened, in ms. */
  readonly atMs: number;
  /** How many messages of the client came before it in the capture. */
  readonly behind: number;
}

/** The messages that the server sent, each with its time and what it may have waited for. */
export function playedMessages(messages: readonly StreamMessage[], factor: TimeFactor): PlayedMessage[] {
  const first = messages.find(({ at }) => at !== undefined)?.at;
  let sent = 0;
  let lastMs = 0;
  const played: PlayedMessage[] = [];
  for (const message of messages) {
    // One without a time comes with the one before it.
    if (message.at !== undefined && first !== undefined) lastMs = Math.max(lastMs, (message.at - first) * factor);
    if (message.direction === 'sent') sent++;
    else played.push({ message, atMs: Math.min(lastMs, LONGEST_MS), behind: sent });
  }
  return played;
}

/** An event stream's body as its events, each with the blank line that ends it (WHATWG HTML 9.2.6). */
export const eventsOf = (text: string): string[] => text.match(/[\s\S]+?(?:\r\n\r\n|\n\n|\r\r|$)/g) ?? [];

/** Events as an event stream has them, for those of which only the data was captured. */
export const writeEvent = (data: string): string =>
  `${data
    .split(/\r\n|\n|\r/)
    .map((line) => `data: ${line}\n`)
    .join('')}\n`;
