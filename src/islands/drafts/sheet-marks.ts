import { type EditorState, type Extension, RangeSetBuilder, type StateField } from '@codemirror/state';
import { Decoration, type DecorationSet, EditorView, WidgetType } from '@codemirror/view';
import { VARIABLE_MARK } from '#core/convert';
import { STRUCK } from '#core/sheet';
import type { ReadContext } from './sheet-context';

/** A variable's slot: its name, in place of its mark. */
class Slot extends WidgetType {
  readonly #name: string;
  readonly #isSecret: boolean;

  constructor(name: string, isSecret: boolean) {
    super();
    this.#name = name;
    this.#isSecret = isSecret;
  }

  override eq(other: Slot): boolean {
    return this.#name === other.#name && this.#isSecret === other.#isSecret;
  }

  /** A click on it goes to its line. */
  override ignoreEvent(): boolean {
    return false;
  }

  toDOM(): HTMLElement {
    const slot = document.createElement('span');
    slot.className = 'cm-slot';
    slot.textContent = this.#name;
    slot.title = `variable ${this.#name}${this.#isSecret ? ', secret' : ''}`;
    return slot;
  }
}

/** What is to be said of a line behind it: what stood there in the captured request, or why it is needed. */
class Was extends WidgetType {
  readonly #text: string;

  constructor(text: string) {
    super();
    this.#text = text;
  }

  override eq(other: Was): boolean {
    return this.#text === other.#text;
  }

  override ignoreEvent(): boolean {
    return false;
  }

  toDOM(): HTMLElement {
    const note = document.createElement('span');
    note.className = 'cm-was';
    note.textContent = this.#text;
    return note;
  }
}

const LONGEST_WAS = 60;
const short = (text: string): string => (text.length > LONGEST_WAS ? `${text.slice(0, LONGEST_WAS)}…` : text);

const STRUCK_LINE = Decoration.line({ class: 'cm-struck', attributes: { 'aria-label': 'left out' } });
const CHANGED_LINE = Decoration.line({ class: 'cm-changed' });
const HIDDEN = Decoration.replace({});

interface Marks {
  readonly all: DecorationSet;
  /** What the cursor steps over as a whole. */
  readonly whole: DecorationSet;
}

function marksOf(state: EditorState, context: ReadContext): Marks {
  const all: { readonly from: number; readonly to: number; readonly value: Decoration }[] = [];
  const whole = new RangeSetBuilder<Decoration>();
  const names = new Map(context.variables.map((variable) => [variable.name, variable]));
  for (const line of context.read.lines) {
    if (line.isStruck) {
      all.push({ from: line.from, to: line.from, value: STRUCK_LINE });
      all.push({ from: line.from, to: line.from + STRUCK.length, value: HIDDEN });
      whole.add(line.from, line.from + STRUCK.length, HIDDEN);
    }
    for (const match of line.text.matchAll(VARIABLE_MARK)) {
      const variable = names.get(match[1] ?? '');
      if (variable === undefined) continue;
      const from = line.from + match.index;
      const slot = Decoration.replace({ widget: new Slot(variable.name, variable.isSecret) });
      all.push({ from, to: from + match[0].length, value: slot });
      whole.add(from, from + match[0].length, slot);
    }
  }
  for (const { at, was } of context.differences) {
    const line = state.doc.line(Math.min(at + 1, state.doc.lines));
    all.push({ from: line.from, to: line.from, value: CHANGED_LINE });
    const isSecret = context.groupAt.get(at)?.id === 'credential';
    const note = was === undefined ? 'new' : isSecret ? 'was another one' : `was ${short(was) || 'empty'}`;
    all.push({ from: line.to, to: line.to, value: Decoration.widget({ widget: new Was(note), side: 1 }) });
  }
  for (const [at, reason] of context.reasons) {
    const line = state.doc.line(Math.min(at + 1, state.doc.lines));
    if (context.read.lines[at]?.isStruck === true) continue;
    all.push({ from: line.to, to: line.to, value: Decoration.widget({ widget: new Was(short(reason)), side: 2 }) });
  }
  for (const { from, to, sentence, bars } of context.read.problems) {
    if (from >= to) continue;
    const attributes = { title: sentence };
    all.push({ from, to, value: Decoration.mark({ class: bars ? 'cm-wrong' : 'cm-doubtful', attributes }) });
  }
  return {
    all: Decoration.set(
      all.map(({ from, to, value }) => value.range(from, to)),
      true,
    ),
    whole: whole.finish(),
  };
}

/** Draws what a sheet's lines are: struck, changed, in doubt; and variables as slots. */
export function sheetMarks(field: StateField<ReadContext>): Extension {
  const cache = new WeakMap<ReadContext, Marks>();
  const marks = (state: EditorState): Marks => {
    const context = state.field(field);
    const known = cache.get(context) ?? marksOf(state, context);
    cache.set(context, known);
    return known;
  };
  return [
    EditorView.decorations.compute([field], (state) => marks(state).all),
    EditorView.atomicRanges.of((view) => marks(view.state).whole),
  ];
}
