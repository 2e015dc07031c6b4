import { bytesFromBase64, bytesFromLatin1 } from '../content';
import type { StreamMessage } from '../model';

const CLOSE_FRAME = 8;
const CODES = { least: 1000, most: 4999 } as const;

/** The code in a socket's close frame (RFC 6455, section 5.5.1: its first two bytes), kept as bytes or as base64. */
export function findCloseCode(messages: readonly StreamMessage[]): number | undefined {
  const frame = messages.findLast(({ opcode }) => opcode === CLOSE_FRAME);
  if (frame === undefined) return undefined;
  return codeOf(bytesFromLatin1(frame.data)) ?? codeOf(bytesFromBase64(frame.data));
}

function codeOf([first, second]: Uint8Array | readonly undefined[] = []): number | undefined {
  if (first === undefined || second === undefined) return undefined;
  const code = first * 256 + second;
  return code >= CODES.least && code <= CODES.most ? code : undefined;
}

/** Why a socket was closed, for the codes that mean that something went wrong (RFC 6455, section 7.4.1; IANA registry). */
export const CLOSE_REASONS: ReadonlyMap<number, string> = new Map([
  [1002, 'one side broke the protocol'],
  [1003, 'a message was of a type that is not accepted'],
  [1006, 'the connection went away without a close frame'],
  [1007, 'a message did not hold what its type says'],
  [1008, 'a message broke a rule of the other side'],
  [1009, 'a message was too large'],
  [1010, 'the server lacks an extension that the page needs'],
  [1011, 'the server failed'],
  [1012, 'the server was started again'],
  [1013, 'the server was overloaded'],
  [1014, 'a gateway got no valid response from the server'],
  [1015, 'the secure connection could not be made'],
]);
