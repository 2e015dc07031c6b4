import { atom } from 'nanostores';

/** Something a user can do, with its key. The list of all of them is what "?" and Ctrl+K show. */
export interface Action {
  readonly id: string;
  readonly label: string;
  /** Keys as they are written: "j", "Shift+C", "g s" for one after the other. The first is the one shown. */
  readonly keys: readonly string[];
  readonly run: () => void;
}

/** The actions of the view on screen. */
export const $actions = atom<readonly Action[]>([]);

/** How a key press is written in `Action.keys`. */
export function keyName(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): string {
  const { key } = event;
  // Shift is part of what a character is ("?"), and named only where the character does not tell.
  const isLetter = /^[a-z]$/i.test(key);
  const shift = event.shiftKey && (isLetter || key.length > 1) ? 'Shift+' : '';
  const control = event.ctrlKey || event.metaKey ? 'Ctrl+' : '';
  const name = isLetter ? (shift === '' ? key.toLowerCase() : key.toUpperCase()) : key;
  return `${control}${event.altKey ? 'Alt+' : ''}${shift}${name}`;
}

const SEQUENCE_MS = 1200;

/** Listens for the keys of the current actions. Returns the way to stop. */
export function listenForKeys(): () => void {
  let before: { readonly name: string; readonly at: number } | undefined;
  const onKey = (event: KeyboardEvent): void => {
    if (event.defaultPrevented || isTyping(event.target) || event.key === 'Shift' || presses(event)) return;
    const name = keyName(event);
    const pair =
      before !== undefined && event.timeStamp - before.at < SEQUENCE_MS ? `${before.name} ${name}` : undefined;
    const actions = $actions.get();
    const action =
      actions.find(({ keys }) => pair !== undefined && keys.includes(pair)) ??
      actions.find(({ keys }) => keys.includes(name));
    before = { name, at: event.timeStamp };
    if (action === undefined) return;
    event.preventDefault();
    before = undefined;
    action.run();
  };
  addEventListener('keydown', onKey);
  return () => removeEventListener('keydown', onKey);
}

/** True where the key presses what has the focus. */
const presses = (event: KeyboardEvent): boolean =>
  (event.key === 'Enter' || event.key === ' ') &&
  event.target instanceof Element &&
  event.target.closest('button, a, summary, [role="option"]') !== null;

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
