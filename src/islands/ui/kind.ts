import type { Kind } from '#core/model';

/** One letter for each kind, as the key column has it; the word itself is the letter's title. */
export const KIND_LETTER: Record<Kind, string> = {
  document: 'D',
  style: 'S',
  script: 'J',
  font: 'F',
  image: 'I',
  media: 'M',
  data: 'A',
  socket: 'W',
  stream: 'E',
  preflight: 'P',
  report: 'R',
  other: 'O',
};
