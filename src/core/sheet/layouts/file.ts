import type { Layout } from '../sheet';

/** A file that code reads when it runs; its path is the only line. */
export const file: Layout = {
  id: 'file',
  label: 'the path of a file, read when it is sent',
  canStrike: false,
  write: (payload) => (payload.type === 'file' && !payload.path.includes('\n') ? payload.path : undefined),
  read: (lines) => {
    const path = lines
      .map((line) => line.text)
      .join('\n')
      .trim();
    return { payload: path === '' ? { type: 'none' } : { type: 'file', path }, problems: [] };
  },
};
