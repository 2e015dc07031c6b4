import { useCallback, useEffect, useLayoutEffect, useRef } from 'react';

// Where the focus is, and where it goes when what had it is gone: to where the user was, else to the view's own home.

/** What a view marks as the place to be in it. */
const HOME = '[data-home]';

/** True where nobody would miss the focus: on nothing, or on the way to another view. */
export function isFocusFree(): boolean {
  const { activeElement } = document;
  return activeElement === null || activeElement === document.body || activeElement.closest('nav') !== null;
}

/** Brings the focus to the home of the view that is shown; views that are kept behind it have one, too. */
export function focusHome(): void {
  const homes = [...document.querySelectorAll<HTMLElement>(HOME)];
  homes.find((home) => home.checkVisibility())?.focus({ preventScroll: true });
}

/** Brings it there from where nobody would miss it. */
export function focusHomeIfFree(): void {
  if (isFocusFree()) focusHome();
}

/** For a view's home: takes the focus as the view comes, or is shown again, where nobody would miss it. */
export function useHome<T extends HTMLElement>(
  isShown = true,
): {
  readonly ref: React.RefObject<T | null>;
  readonly 'data-home': '';
} {
  const ref = useRef<T>(null);
  useEffect(() => {
    if (isShown && isFocusFree()) ref.current?.focus({ preventScroll: true });
  }, [isShown]);
  return { ref, 'data-home': '' };
}

/** For what opens over a view and closes again: gives the focus back to what had it, else to the view's home. */
export function useReturnOfFocus(): void {
  // Before what opens takes the focus.
  useLayoutEffect(() => {
    const opener = document.activeElement;
    return () => {
      // What is closing is still there; what was behind it can have the focus once it is gone.
      requestAnimationFrame(() => {
        if (!isFocusFree()) return;
        if (
          opener instanceof HTMLElement &&
          opener !== document.body &&
          opener.isConnected &&
          opener.closest('nav') === null
        ) {
          opener.focus({ preventScroll: true });
        } else focusHome();
      });
    };
  }, []);
}

type Along = 'arrows' | 'tab' | 'none';

const REACHED = 'a[href], button:not(:disabled), input, select, summary';

/**
 * Makes one tab stop of a list: arrows go from row to row and along a row, Home and End to its ends. What had the focus last
 * has it again.
 * @param rows a selector of the list's rows
 * @param along how one gets from control to control in a row: by arrows to the side, or, where there are fields, which need
 *   those, by Tab: then the row that had the focus last is the one stop
 */
export function useOneTabStop<T extends HTMLElement>(rows: string, along: Along = 'arrows'): React.RefCallback<T> {
  const list = useRef<T>(null);
  const last = useRef<Element | null>(null);
  // Rows come and go with every drawing.
  useLayoutEffect(() => {
    const items = itemsOf(list.current, rows);
    if (last.current === null || !items.flat().includes(last.current as HTMLElement))
      last.current = items.flat()[0] ?? null;
    stopAt(items, last.current, along);
  });
  // A list may come long after its view, when a filter lets something through again.
  return useCallback(
    (target: T) => {
      list.current = target;
      const onFocus = ({ target: focused }: FocusEvent): void => {
        const items = itemsOf(target, rows);
        if (!(focused instanceof HTMLElement) || !items.flat().includes(focused)) return;
        last.current = focused;
        stopAt(items, focused, along);
      };
      const onKey = (event: KeyboardEvent): void => {
        if (event.ctrlKey || event.metaKey || event.altKey || event.shiftKey) return;
        const next = neighbour(itemsOf(target, rows), document.activeElement, event.key, along);
        if (next === undefined) return;
        event.preventDefault();
        next.focus();
        next.scrollIntoView({ block: 'nearest' });
      };
      target.addEventListener('focusin', onFocus);
      target.addEventListener('keydown', onKey);
      return () => {
        list.current = null;
        target.removeEventListener('focusin', onFocus);
        target.removeEventListener('keydown', onKey);
      };
    },
    [rows, along],
  );
}

/** Leaves one control, or one row of them, to be reached by Tab. */
function stopAt(rows: readonly (readonly HTMLElement[])[], at: Element | null, along: Along): void {
  for (const row of rows) {
    const isOfRow = along === 'tab' && row.includes(at as HTMLElement);
    for (const item of row) item.tabIndex = isOfRow || item === at ? 0 : -1;
  }
}

const itemsOf = (list: HTMLElement | null, rows: string): HTMLElement[][] =>
  [...(list?.querySelectorAll(rows) ?? [])].map((row) =>
    row.matches(REACHED) ? [row as HTMLElement] : [...row.querySelectorAll<HTMLElement>(REACHED)],
  );

/** What a key goes to from an item; undefined where the key is not for walking, or there is nothing further. */
function neighbour(
  rows: readonly (readonly HTMLElement[])[],
  from: Element | null,
  key: string,
  along: Along,
): HTMLElement | undefined {
  const at = rows.findIndex((row) => row.includes(from as HTMLElement));
  const row = rows[at];
  // What is typed into has its own use for these, but for those up and down in a field of one line.
  const isField = from instanceof HTMLInputElement && from.type !== 'checkbox';
  const isOwn = isField && !(along === 'tab' && (key === 'ArrowDown' || key === 'ArrowUp'));
  if (row === undefined || isOwn || from instanceof HTMLSelectElement) return undefined;
  const place = row.indexOf(from as HTMLElement);
  const inRow = (other: readonly HTMLElement[] | undefined): HTMLElement | undefined =>
    other?.[Math.min(place, other.length - 1)];
  switch (key) {
    case 'ArrowDown':
      return inRow(rows.slice(at + 1).find((other) => other.length > 0));
    case 'ArrowUp':
      return inRow(rows.slice(0, at).findLast((other) => other.length > 0));
    case 'ArrowRight':
      return along === 'arrows' ? row[place + 1] : undefined;
    case 'ArrowLeft':
      return along === 'arrows' ? row[place - 1] : undefined;
    case 'Home':
      return inRow(rows[0]);
    case 'End':
      return inRow(rows.at(-1));
    default:
      return undefined;
  }
}
