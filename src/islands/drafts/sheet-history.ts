/** Longer histories are not kept: the storage of a tab is small. */
const MOST_CHARS = 500_000;
const KEEP_AFTER_MS = 500;

const keyOf = (draft: string): string => `sheet of ${draft}`;
const waiting = new Map<string, ReturnType<typeof setTimeout>>();

/** The editor's state as it was kept in this tab, with its undo; undefined where there is none. */
export function readHistory(draft: string): unknown {
  try {
    return JSON.parse(sessionStorage.getItem(keyOf(draft)) ?? 'null') ?? undefined;
  } catch {
    return undefined;
  }
}

/** Keeps the editor's state for the next time that the page is loaded, once typing rests. */
export function writeHistory(draft: string, state: () => unknown): void {
  clearTimeout(waiting.get(draft));
  waiting.set(
    draft,
    setTimeout(() => {
      const text = JSON.stringify(state());
      try {
        if (text === undefined || text.length > MOST_CHARS) sessionStorage.removeItem(keyOf(draft));
        else sessionStorage.setItem(keyOf(draft), text);
      } catch {
        // Full: undo lasts until the page is loaded again.
      }
    }, KEEP_AFTER_MS),
  );
}
