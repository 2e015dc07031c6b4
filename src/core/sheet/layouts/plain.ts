import type { Layout } from '../sheet';

/** Text as it stands. */
export const plain: Layout = {
  id: 'plain',
  label: 'text as it stands',
  canStrike: false,
  write: (payload) => (payload.type === 'text' ? payload.text : payload.type === 'none' ? '' : undefined),
  read: (lines) => {
    const text = lines.map((line) => line.text).join('\n');
    return { payload: lines.length === 0 ? { type: 'none' } : { type: 'text', text }, problems: [] };
  },
};
