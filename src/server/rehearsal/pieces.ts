import type { Exchange } from '#core/model';
import { eventsOf, playedMessages, type TimeFactor, writeEvent } from '#core/rehearse';
import type { TimedPiece } from './give';

/** An event stream's events with their times, where these are known; none for all else. @param plain its body, unpacked */
export function piecesOf({ kind, messages }: Exchange, plain: Uint8Array, time: TimeFactor): TimedPiece[] {
  if (kind.value !== 'stream' || messages.length === 0) return [];
  const played = playedMessages(messages, time);
  const events = eventsOf(Buffer.from(plain).toString('utf8'));
  const isKept = events.length === played.length;
  return played.map(({ message, atMs }, at) => ({
    atMs,
    text: isKept ? (events[at] ?? '') : writeEvent(message.data),
  }));
}
