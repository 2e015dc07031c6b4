import { base64Of } from '../content';
import type { DraftPayload } from '../convert';
import { hashText } from '../model';
import { formatExactBytes } from '../wording';
import type { Attachment } from './sheet';

/** Bytes under a name that tells their length and, by a hash, which they are. */
export const attachmentOf = (bytes: Uint8Array): Attachment => ({
  key: `${formatExactBytes(bytes.length)}, ${hashText(base64Of(bytes)).toString(16)}`,
  bytes,
});

/** The line of a sheet that stands for bytes. */
export const attachedLine = (bytes: Uint8Array): string => `[attached: ${attachmentOf(bytes).key}]`;

/** The bytes that a line stands for; undefined where it is no such line, or they are not there. */
export function attachedBytes(line: string, attachments: readonly Attachment[]): Uint8Array | undefined {
  const key = /^\[attached: (.*)\]$/.exec(line.trim())?.[1];
  return attachments.find((attachment) => attachment.key === key)?.bytes;
}

/** Everything in a payload that its sheet may show by name. */
export function attachmentsOf(payload: DraftPayload): Attachment[] {
  if (payload.type === 'bytes') return [attachmentOf(payload.bytes)];
  if (payload.type !== 'parts') return [];
  return payload.parts.flatMap(({ bytes }) => (bytes === undefined ? [] : [attachmentOf(bytes)]));
}
