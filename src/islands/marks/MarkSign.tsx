import { useStore } from '@nanostores/react';
import { $marks, markOf } from './marks-store';

/** The folded corner of an exchange that is marked, filled, or has a note; nothing where neither. */
export function MarkSign({ index }: { readonly index: number }) {
  const { isMarked, note } = markOf(useStore($marks), { type: 'exchange', index });
  if (!isMarked && note === '') return null;
  const words = [isMarked ? 'marked' : '', note].filter(Boolean).join(': ');
  return (
    <svg
      width="9"
      height="9"
      viewBox="0 0 9 9"
      role="img"
      aria-label={words}
      className="shrink-0 stroke-ink"
      data-mark={index}
    >
      <title>{words}</title>
      <path d="M1 1h7l-7 7z" className={isMarked ? 'fill-ink' : 'fill-none'} />
    </svg>
  );
}
