import { atom } from 'nanostores';

/** A sentence at the foot of the screen, with at most one thing to do about it. */
export interface Notice {
  readonly text: string;
  readonly detail: string | undefined;
  readonly action: { readonly label: string; readonly run: () => void } | undefined;
}

export const $notice = atom<Notice | undefined>(undefined);

const SHOWN_MS = 6000;
let timer: ReturnType<typeof setTimeout> | undefined;

/** Shows a notice in place of the one before; it goes by itself. */
export function tell(text: string, rest: { detail?: string; action?: Notice['action'] } = {}): void {
  clearTimeout(timer);
  $notice.set({ text, detail: rest.detail, action: rest.action });
  timer = setTimeout(() => $notice.set(undefined), SHOWN_MS);
}
