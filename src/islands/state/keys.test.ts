import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { $actions, holdTyping, listenForKeys, registerActions, takeHeldLine, takeHeldTyping } from './actions';

// The keys of the page without a page: the classes that the listener asks after, and the target of its events.

class FakeElement extends EventTarget {
  readonly tagName: string;
  readonly isContentEditable: boolean;
  constructor(tagName: string, isContentEditable = false) {
    super();
    this.tagName = tagName;
    this.isContentEditable = isContentEditable;
  }
  closest(selector: string): FakeElement | null {
    return selector.split(', ').includes(this.tagName.toLowerCase()) ? this : null;
  }
}

class FakeInput extends FakeElement {
  constructor(readonly type: string) {
    super('INPUT');
  }
}
class FakeSelect extends FakeElement {}
class FakeTextarea extends FakeElement {}

let heard: string[];
let stop: () => void;
let forget: () => void;
const page = new EventTarget();
let atMs: number;

interface Press {
  readonly on?: FakeElement;
  /** What it is pressed in, inside a shadow root whose host is `on`. */
  readonly inside?: FakeElement;
  readonly afterMs?: number;
  readonly ctrlKey?: boolean;
  readonly shiftKey?: boolean;
  readonly isHandled?: boolean;
}

/** Presses a key; true where it was taken from the browser. */
function press(
  key: string,
  { on = new FakeElement('MAIN'), inside = on, afterMs = 100, isHandled = false, ...held }: Press = {},
): boolean {
  atMs += afterMs;
  const event = new Event('keydown', { cancelable: true });
  const own = { key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held };
  for (const [name, value] of Object.entries({ ...own, timeStamp: atMs, target: on, composedPath: () => [inside, on] }))
    Object.defineProperty(event, name, { value });
  if (isHandled) event.preventDefault();
  page.dispatchEvent(event);
  return event.defaultPrevented && !isHandled;
}

beforeEach(() => {
  heard = [];
  atMs = 10_000;
  vi.stubGlobal('Element', FakeElement);
  vi.stubGlobal('HTMLElement', FakeElement);
  vi.stubGlobal('HTMLInputElement', FakeInput);
  vi.stubGlobal('HTMLSelectElement', FakeSelect);
  vi.stubGlobal('HTMLTextAreaElement', FakeTextarea);
  // A view that is kept behind the one that is shown has a home, too.
  const home = (name: string, isVisible: boolean) => ({
    checkVisibility: () => isVisible,
    focus: () => heard.push(name),
  });
  vi.stubGlobal('document', { querySelectorAll: () => [home('hidden', false), home('home', true)] });
  vi.stubGlobal('addEventListener', page.addEventListener.bind(page));
  vi.stubGlobal('removeEventListener', page.removeEventListener.bind(page));
  const action = (id: string, ...keys: string[]) => ({ id, label: id, keys, run: () => void heard.push(id) });
  forget = registerActions('view', [
    action('next', 'j', 'ArrowDown'),
    action('shelf', 'g s'),
    action('sort', 's'),
    action('all', 'Ctrl+K', 'Ctrl+k'),
    action('curl', 'Shift+C'),
    action('open', 'Enter'),
    action('help', '?'),
  ]);
  stop = listenForKeys();
});
afterEach(() => {
  stop();
  forget();
  vi.unstubAllGlobals();
});

describe('a key', () => {
  it('runs the action that has it, and is taken from the browser', () => {
    expect(press('j')).toBe(true);
    expect(press('ArrowDown')).toBe(true);
    expect(press('C', { shiftKey: true })).toBe(true);
    expect(press('?', { shiftKey: true })).toBe(true);
    expect(press('k', { ctrlKey: true })).toBe(true);
    expect(heard).toEqual(['next', 'next', 'curl', 'help', 'all']);
  });

  it('that no action has is left to the browser', () => {
    expect(press('x')).toBe(false);
    expect(press('j', { ctrlKey: true })).toBe(false);
    expect(heard).toEqual([]);
  });

  it('goes into the field where somebody is writing', () => {
    const fields = [
      new FakeInput('text'),
      new FakeInput('search'),
      new FakeTextarea('TEXTAREA'),
      new FakeElement('DIV', true),
    ];
    for (const on of fields) {
      for (const key of ['j', 'Enter', 'Escape', ' ']) expect(press(key, { on })).toBe(false);
    }
    expect(heard).toEqual([]);
  });

  it('goes into an editor in a shadow root, but not into one that is only read', () => {
    const on = new FakeElement('DIV');
    const editor = new FakeElement('DIV', true);
    expect(press('j', { on, inside: editor })).toBe(false);
    const reader = Object.assign(new FakeElement('DIV', true), { ariaReadOnly: 'true' });
    expect(press('j', { on, inside: reader })).toBe(true);
    expect(heard).toEqual(['next']);
  });

  it('chooses in a chooser and ticks a box; Escape and Enter give the keys back to the view', () => {
    const chooser = new FakeSelect('SELECT');
    const box = new FakeInput('checkbox');
    for (const key of ['j', 'ArrowDown', ' ']) expect(press(key, { on: chooser })).toBe(false);
    expect(press(' ', { on: box })).toBe(false);
    expect(heard).toEqual([]);
    expect(press('j', { on: box })).toBe(true);
    for (const on of [chooser, box]) for (const key of ['Escape', 'Enter']) expect(press(key, { on })).toBe(true);
    expect(heard).toEqual(['next', 'home', 'home', 'home', 'home']);
  });

  it('is kept for the field that is on its way, until that is there, or given up', () => {
    holdTyping();
    for (const key of ['j', 's', 'x', 'Backspace', 'Shift', 'j', 'k']) press(key, { ctrlKey: key === 'k' });
    expect([takeHeldTyping(), takeHeldTyping()]).toEqual(['jsj', '']);
    expect(heard).toEqual(['all']);
    press('j');
    holdTyping();
    press('Escape');
    press('j');
    expect([takeHeldTyping(), heard]).toEqual(['', ['all', 'next', 'next']]);
  });

  it('that enters what is typed for a field on its way is kept with it, and opens nothing', () => {
    const typeAhead = (): void => {
      holdTyping();
      for (const key of ['1', '2', 'Enter']) press(key);
    };
    typeAhead();
    expect(takeHeldLine()).toEqual({ line: '12', isEntered: true });
    typeAhead();
    press('Backspace');
    expect(takeHeldLine()).toEqual({ line: '12', isEntered: false });
    typeAhead();
    press('j');
    expect(takeHeldTyping()).toBe('12\nj');
    expect(heard).toEqual([]);
  });

  it('that presses a button presses that alone', () => {
    for (const name of ['BUTTON', 'A', 'SUMMARY']) expect(press('Enter', { on: new FakeElement(name) })).toBe(false);
    expect(press('Enter')).toBe(true);
    expect(heard).toEqual(['open']);
  });

  it('that something else has dealt with runs nothing', () => {
    press('j', { isHandled: true });
    expect(heard).toEqual([]);
  });
});

describe('one key after the other', () => {
  it('is an action of its own, before that of the second key', () => {
    expect(press('g')).toBe(false);
    expect(press('s')).toBe(true);
    expect(heard).toEqual(['shelf']);
  });

  it('is none when the second comes too late', () => {
    press('g');
    press('s', { afterMs: 1300 });
    expect(heard).toEqual(['sort']);
  });

  it('is over when it has run', () => {
    press('g');
    press('s');
    press('s');
    expect(heard).toEqual(['shelf', 'sort']);
  });
});

it('is no longer listened for once that was stopped', () => {
  stop();
  press('j');
  expect(heard).toEqual([]);
});

it('lists a key with the nearest action that it runs, and with no other', () => {
  const action = (id: string, keys: readonly string[]) => ({ id, label: id, keys, run: () => undefined });
  const forgets = [
    registerActions('exchange', [action('copy as before', ['y']), action('mark', ['m', 'Shift+K'])]),
    registerActions('view', [action('copy the draft', ['y']), action('measure', ['m'])]),
  ];
  const listed = $actions.get().filter(({ label }) => /copy|mark|measure/.test(label));
  expect(listed.map(({ label, keys }) => [label, ...keys])).toEqual([
    ['copy the draft', 'y'],
    ['measure', 'm'],
    ['copy as before'],
    ['mark', 'Shift+K'],
  ]);
  for (const forget of forgets) forget();
});
