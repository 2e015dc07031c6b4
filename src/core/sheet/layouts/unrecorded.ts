import type { Layout } from '../sheet';

/** A payload that was sent and that the capture does not hold: nothing, until somebody writes it. */
export const unrecorded: Layout = {
  id: 'unrecorded',
  label: 'not recorded: it goes out without, unless you write it here',
  canStrike: false,
  write: (payload) => (payload.type === 'unrecorded' ? '' : undefined),
  read: (lines) => {
    const text = lines.map((line) => line.text).join('\n');
    return { payload: text === '' ? { type: 'unrecorded' } : { type: 'text', text }, problems: [] };
  },
};
