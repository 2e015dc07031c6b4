import type { Action } from '../state/actions';

/** Hits are buttons of a list: walking over them moves the focus. */
export function hitActions(list: () => HTMLElement | null): readonly Action[] {
  const step = (by: number) => (): void => {
    const hits = [...(list()?.querySelectorAll<HTMLElement>('[data-hit]') ?? [])];
    const at = hits.indexOf(document.activeElement as HTMLElement);
    const next = hits[at === -1 ? (by > 0 ? 0 : hits.length - 1) : Math.min(hits.length - 1, Math.max(0, at + by))];
    next?.focus();
    next?.scrollIntoView({ block: 'nearest' });
  };
  return [
    { id: 'next-hit', label: 'Next hit', keys: ['j', 'ArrowDown'], run: step(1) },
    { id: 'previous-hit', label: 'Previous hit', keys: ['k', 'ArrowUp'], run: step(-1) },
  ];
}
