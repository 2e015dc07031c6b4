import { attachedBytes, attachedLine } from '../attach';
import type { Layout } from '../sheet';

/** Bytes that are no text: they stand on the sheet by their length. */
export const bytes: Layout = {
  id: 'bytes',
  label: 'bytes that are no text',
  canStrike: false,
  write: (payload) => (payload.type === 'bytes' ? attachedLine(payload.bytes) : undefined),
  read: (lines, attachments) => {
    const text = lines.map((line) => line.text).join('\n');
    if (text.trim() === '') return { payload: { type: 'none' }, problems: [] };
    const found = attachedBytes(text, attachments);
    if (found !== undefined) return { payload: { type: 'bytes', bytes: found }, problems: [] };
    const from = lines[0]?.from ?? 0;
    const sentence = 'No bytes of this name are attached. Undo the change, or choose a file in the margin.';
    return {
      payload: { type: 'text', text },
      problems: [{ from, to: from + text.length, sentence, bars: true }],
    };
  },
};
