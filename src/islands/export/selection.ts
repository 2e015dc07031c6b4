import { formatCount } from '#core/wording';

/** Which of the exchanges shown are meant, or why that cannot be told. */
export type Selection =
  | { readonly ok: true; readonly indexes: readonly number[] }
  | { readonly ok: false; readonly problem: string };

/**
 * Reads numbers and spans of numbers, as "76, 80-86"; no text means all.
 * @param shown the numbers of the exchanges that are shown
 * @returns those that are meant, in capture order, each once
 */
export function readSelection(text: string, shown: readonly number[]): Selection {
  const ordered = [...shown].sort((a, b) => a - b);
  const words = text.split(/[\s,;]+/).filter((word) => word !== '');
  if (words.length === 0) return { ok: true, indexes: ordered };
  const wanted = new Set<number>();
  for (const word of words) {
    const [, from, to = from] = /^#?(\d+)(?:[-–]#?(\d+))?$/.exec(word) ?? [];
    if (from === undefined || to === undefined) {
      return { ok: false, problem: `"${word}" is not a number. Use numbers and ranges, e.g. 76, 80-86.` };
    }
    const [first, last] = [Number(from), Number(to)];
    const meant = ordered.filter((index) => index >= first && index <= last);
    if (meant.length === 0) {
      return { ok: false, problem: `None of the ${formatCount(shown.length)} shown has the number ${word}.` };
    }
    for (const index of meant) wanted.add(index);
  }
  return { ok: true, indexes: ordered.filter((index) => wanted.has(index)) };
}
