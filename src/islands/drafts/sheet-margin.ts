import type { Extension, StateField } from '@codemirror/state';
import { type EditorView, GutterMarker, gutter } from '@codemirror/view';
import type { SheetGroup } from '#core/sheet';
import type { ReadContext } from './sheet-context';

/** A line's piece of the bracket that holds its group, with the group's words at its first line. */
class Bracket extends GutterMarker {
  readonly #group: SheetGroup;
  readonly #at: number;
  readonly #isStruck: boolean;

  constructor(group: SheetGroup, at: number, isStruck: boolean) {
    super();
    this.#group = group;
    this.#at = at;
    this.#isStruck = isStruck;
  }

  override eq(other: Bracket): boolean {
    const [one, two] = [this.#group, other.#group];
    return (
      this.#at === other.#at &&
      this.#isStruck === other.#isStruck &&
      one.from === two.from &&
      one.to === two.to &&
      one.label === two.label &&
      one.reason === two.reason
    );
  }

  override toDOM(): HTMLElement {
    const { from, to, label, reason, canStrike } = this.#group;
    const piece = document.createElement('div');
    piece.className = ['cm-bracket', this.#at === from ? 'is-first' : '', this.#isStruck ? 'is-struck' : ''].join(' ');
    const words = reason === undefined ? label : `${label}: ${reason}`;
    piece.title = canStrike ? `${words}. A click leaves all of them out, or restores them.` : words;
    if (this.#at === from) {
      const text = document.createElement('div');
      text.className = 'cm-bracket-words';
      text.style.setProperty('--lines', String(to - from + 1));
      // One line has room for one line.
      text.textContent = to > from ? words : label;
      piece.append(text);
    }
    return piece;
  }
}

interface MarginOptions {
  readonly field: StateField<ReadContext>;
  /** A click on the bracket of a group. */
  readonly onGroup: (view: EditorView, group: SheetGroup) => void;
}

/** The margin at the right: lines bracketed by what they are for. */
export const sheetMargin = ({ field, onGroup }: MarginOptions): Extension =>
  gutter({
    class: 'cm-margin',
    side: 'after',
    lineMarker: (view, block) => {
      const context = view.state.field(field);
      const at = view.state.doc.lineAt(block.from).number - 1;
      const group = context.groupAt.get(at);
      return group === undefined ? null : new Bracket(group, at, context.read.lines[at]?.isStruck === true);
    },
    lineMarkerChange: (update) => update.startState.field(field) !== update.state.field(field),
    domEventHandlers: {
      mousedown: (view, block) => {
        const group = view.state.field(field).groupAt.get(view.state.doc.lineAt(block.from).number - 1);
        if (group?.canStrike !== true) return false;
        onGroup(view, group);
        return true;
      },
    },
  });
