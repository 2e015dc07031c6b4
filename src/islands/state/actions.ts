import { atom, computed } from 'nanostores';
import { focusHome } from './focus';

/** Something a user can do, with its key. The list of all of them is what "?" and Ctrl+K show. */
export interface Action {
  readonly id: string;
  readonly label: string;
  /** Keys as they are written: "j", "Shift+C", "g s" for one after the other. The first is the one shown. */
  readonly keys: readonly string[];
  readonly run: () => void;
}

/** Where an action belongs, nearest first: of two that have one key, or one id, the nearer counts. */
const RANKS = ['view', 'exchange', 'capture', 'everywhere'] as const;
export type Rank = (typeof RANKS)[number];

interface Registered {
  readonly rank: Rank;
  readonly actions: readonly Action[];
}

const $registered = atom<readonly Registered[]>([]);

/** What can be done now, by where it belongs, nearest first, each with the keys that run it and none that runs a nearer one. */
export const $actionsByRank = computed(
  $registered,
  (registered): readonly { rank: Rank; actions: readonly Action[] }[] => {
    const seen = new Set<string>();
    const isFirst = (id: string): boolean => seen.size < seen.add(id).size;
    const taken = new Set<string>();
    const withOwnKeys = (action: Action): Action => {
      const keys = action.keys.filter((key) => taken.size < taken.add(key).size);
      return keys.length === action.keys.length ? action : { ...action, keys };
    };
    return RANKS.map((rank) => ({
      rank,
      actions: registered
        .filter((one) => one.rank === rank)
        .flatMap(({ actions }) => actions)
        .filter(({ id }) => isFirst(id))
        .map(withOwnKeys),
    }));
  },
);

/** What can be done now, nearest first. */
export const $actions = computed($actionsByRank, (ranks): readonly Action[] => ranks.flatMap(({ actions }) => actions));

/** Adds actions. Returns the way to take them away again. */
export function registerActions(rank: Rank, actions: readonly Action[]): () => void {
  const own: Registered = { rank, actions };
  $registered.set([...$registered.get(), own]);
  return () => $registered.set($registered.get().filter((one) => one !== own));
}

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

/** Text that was typed for a field that is still on its way: it must neither be lost nor be taken for keys of actions. */
let held: { text: string; readonly until: number } | undefined;
/** A field that has not come by then does not come. */
const HOLD_MS = 8000;

/** From now on what is typed is kept for the field that a view brings. */
export function holdTyping(): void {
  held = { text: '', until: performance.now() + HOLD_MS };
}

/** Gives what was typed so far, Enter as a line break, to the field that is there now, and ends the holding: an effect's, never a drawing's. */
export function takeHeldTyping(): string {
  const text = held?.text ?? '';
  held = undefined;
  return text;
}

/** The same for a field of one line, and whether Enter was pressed behind it. */
export function takeHeldLine(): { readonly line: string; readonly isEntered: boolean } {
  const [line = '', ...rest] = takeHeldTyping().split('\n');
  return { line, isEntered: rest.length > 0 };
}

/** Keeps a key where typing is held; false where it is not, or the key is no text. */
function hold(event: KeyboardEvent): boolean {
  if (held === undefined || event.ctrlKey || event.metaKey || event.altKey) return false;
  if (performance.now() > held.until || event.key === 'Escape') {
    held = undefined;
    return false;
  }
  if (event.key === 'Backspace') held.text = held.text.slice(0, -1);
  else if (event.key === 'Enter') held.text += '\n';
  else if (event.key.length === 1) held.text += event.key;
  else return false;
  event.preventDefault();
  return true;
}

/** Listens for the keys of the current actions. Returns the way to stop. */
export function listenForKeys(): () => void {
  let before: { readonly name: string; readonly at: number } | undefined;
  const onKey = (event: KeyboardEvent): void => {
    if (event.defaultPrevented || event.key === 'Shift' || hold(event)) return;
    if (leaves(event)) {
      event.preventDefault();
      focusHome();
      return;
    }
    if (isTyping(targetOf(event)) || isChoosing(event) || presses(event)) return;
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

/** What a key was pressed in: editors live in shadow roots, which events are told from without. */
const targetOf = (event: KeyboardEvent): EventTarget | null => event.composedPath()[0] ?? event.target;

/** True for Escape and Enter in a chooser or a box to tick of the view: they give the keys back to the view. */
const leaves = ({ key, target }: KeyboardEvent): boolean =>
  (key === 'Escape' || key === 'Enter') &&
  (target instanceof HTMLSelectElement || (target instanceof HTMLInputElement && !isTyping(target))) &&
  target.closest('dialog') === null;

/** True for keys by which a chooser chooses, or a box is ticked. */
const isChoosing = ({ key, target }: KeyboardEvent): boolean =>
  target instanceof HTMLSelectElement || (key === ' ' && target instanceof HTMLInputElement);

/** True where the key presses what has the focus. */
const presses = (event: KeyboardEvent): boolean =>
  (event.key === 'Enter' || event.key === ' ') &&
  event.target instanceof Element &&
  event.target.closest('button, a, summary, [role="option"]') !== null;

/** Kinds of input in which nothing is typed. */
const NOT_TYPED = /^(?:checkbox|radio|button|submit|reset|file|range|color)$/;

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLTextAreaElement ||
  (target instanceof HTMLInputElement && !NOT_TYPED.test(target.type)) ||
  // What is only read takes no keys.
  (target instanceof HTMLElement && target.isContentEditable && target.ariaReadOnly !== 'true');
