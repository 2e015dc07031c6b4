import type { TargetId } from '#core/convert';

const LAST = 'copy-as';

/** The target for which something was copied last in this browser; absent at first. */
export function lastTarget(): string | undefined {
  try {
    return localStorage.getItem(LAST) ?? undefined;
  } catch {
    return undefined;
  }
}

export function rememberTarget(id: TargetId): void {
  try {
    localStorage.setItem(LAST, id);
  } catch {
    // A browser that keeps nothing offers the first target again.
  }
}
