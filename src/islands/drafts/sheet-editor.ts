import { completionStatus } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyField, historyKeymap, undo } from '@codemirror/commands';
import { EditorState, Prec } from '@codemirror/state';
import { EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { markOf, type Preset } from '#core/convert';
import { type SheetEdit, strikeByPreset, strikeLine, strikeRole } from '#core/sheet';
import { LOOK } from '../content/code-look';
import { type SheetWords, sheetCompletion } from './sheet-completion';
import { type ReadContext, type SheetContext, setContext, sheetField } from './sheet-context';
import { SHEET_LOOK } from './sheet-look';
import { sheetMargin } from './sheet-margin';
import { sheetMarks } from './sheet-marks';

export interface SheetEditorOptions {
  readonly text: string;
  readonly context: SheetContext;
  readonly words: () => SheetWords;
  /** The history that was kept of this text. */
  readonly kept: unknown;
  readonly onText: (text: string) => void;
  /** Hears of the line under the cursor, and of what is read there. */
  readonly onPlace: (context: ReadContext, at: number) => void;
  readonly onSend: () => void;
  /** Escape: the keys are the view's again. */
  readonly onLeave: () => void;
  /** A selection is to become a variable. */
  readonly onLift: (text: string) => void;
}

export interface SheetEditor {
  /** Shows another text, where one is given that is not there, and reads it with what is beside it now. */
  readonly show: (text: string | undefined, context: SheetContext) => void;
  readonly strike: () => void;
  readonly strikeGroup: () => void;
  readonly usePreset: (preset: Preset) => void;
  /** Moves the cursor by lines; by groups where `isGroup`. */
  readonly move: (by: 1 | -1, isGroup: boolean) => void;
  /** Goes to an offset of the text. */
  readonly goTo: (offset: number) => void;
  readonly focus: () => void;
  /** The line under the cursor, and what is read there, as they are now: what was heard of them is drawn a moment later. */
  readonly place: () => { readonly context: ReadContext; readonly at: number };
  /** The selected text; of none, the value of the line under the cursor. */
  readonly selected: () => string;
  /** Puts a variable's mark in place of the selection, or of the line's value. */
  readonly putVariable: (name: string) => void;
  readonly undo: () => void;
  /** The state, to be kept across reloads. */
  readonly state: () => unknown;
  readonly close: () => void;
}

/**
 * The sheet's editor in an element, its styles in a shadow root, as the page's content security policy wants.
 * Long because every command works on the one view that is made here.
 */
export function openSheet(host: HTMLElement, options: SheetEditorOptions): SheetEditor {
  const root = host.shadowRoot ?? host.attachShadow({ mode: 'open' });
  const field = sheetField(options.context);
  let isShowing = false;
  const edit = (view: EditorView, edits: readonly SheetEdit[]): boolean => {
    if (edits.length > 0) view.dispatch({ changes: [...edits], userEvent: 'strike' });
    return edits.length > 0;
  };
  const lineOf = (state: EditorState): number => state.doc.lineAt(state.selection.main.head).number - 1;
  const strikeAt = (view: EditorView, at: number): boolean => {
    const { read, layout } = view.state.field(field);
    return edit(view, strikeLine(read.lines, at, layout));
  };
  const strikeGroupAt = (view: EditorView, at: number): boolean => {
    const { read, groupAt } = view.state.field(field);
    const group = groupAt.get(at);
    return group?.canStrike === true && edit(view, strikeRole(read, group.id));
  };
  const extensions = [
    field,
    // Lone carriage returns of a payload are sent as they are.
    EditorState.lineSeparator.of('\n'),
    lineNumbers({
      domEventHandlers: {
        mousedown: (view, block) => strikeAt(view, view.state.doc.lineAt(block.from).number - 1),
      },
    }),
    sheetMargin({ field, onGroup: (view, group) => edit(view, strikeRole(view.state.field(field).read, group.id)) }),
    sheetMarks(field),
    // Before the words that are offered: those that are still being looked for are not worth a second press.
    Prec.highest(keymap.of([{ key: 'Escape', run: leaving(options.onLeave) }])),
    sheetCompletion(field, options.words),
    highlightActiveLine(),
    EditorView.lineWrapping,
    EditorView.contentAttributes.of({ tabindex: '0', 'aria-label': 'The request', spellcheck: 'false' }),
    history(),
    keymap.of([
      { key: 'Mod-Enter', run: doing(() => options.onSend()) },
      { key: 'Alt-x', run: doing((view) => strikeAt(view, lineOf(view.state))) },
      { key: 'Alt-Shift-x', run: doing((view) => strikeGroupAt(view, lineOf(view.state))) },
      { key: 'Alt-v', run: doing((view) => options.onLift(selectedIn(view, field))) },
      ...defaultKeymap,
      ...historyKeymap,
    ]),
    EditorView.updateListener.of((update) => {
      if (update.docChanged && !isShowing) options.onText(update.state.doc.toString());
      const context = update.state.field(field);
      if (update.docChanged || update.selectionSet || context !== update.startState.field(field))
        options.onPlace(context, lineOf(update.state));
    }),
    SHEET_LOOK,
    LOOK,
  ];
  const view = new EditorView({ state: stateFrom(options, extensions), parent: root, root });
  options.onPlace(view.state.field(field), 0);
  return {
    show: (text, context) => {
      const change = text === undefined ? undefined : changeTo(view.state.doc.toString(), text);
      isShowing = true;
      view.dispatch({
        ...(change === undefined ? {} : { changes: change }),
        effects: setContext.of(context),
      });
      isShowing = false;
    },
    strike: () => strikeAt(view, lineOf(view.state)),
    strikeGroup: () => strikeGroupAt(view, lineOf(view.state)),
    usePreset: (preset) => edit(view, strikeByPreset(view.state.field(field).read, preset)),
    move: (by, isGroup) => {
      const at = lineOf(view.state);
      const target = isGroup ? nextGroup(view.state.field(field), at, by) : at + by;
      const line = view.state.doc.line(Math.min(view.state.doc.lines, Math.max(1, target + 1)));
      view.dispatch({ selection: { anchor: line.from }, scrollIntoView: true });
    },
    goTo: (offset) => {
      view.dispatch({ selection: { anchor: Math.min(offset, view.state.doc.length) }, scrollIntoView: true });
      view.focus();
    },
    focus: () => view.focus(),
    place: () => ({ context: view.state.field(field), at: lineOf(view.state) }),
    selected: () => selectedIn(view, field),
    putVariable: (name) => {
      const { from, to } = rangeOf(view, field);
      view.dispatch({ changes: { from, to, insert: markOf(name) }, userEvent: 'input' });
    },
    undo: () => undo(view),
    state: () => view.state.toJSON({ history: historyField }),
    close: () => view.destroy(),
  };
}

/** What between the same beginning and the same end of two texts has to change; the cursor stays where it can. */
function changeTo(before: string, after: string): SheetEdit | undefined {
  if (before === after) return undefined;
  const most = Math.min(before.length, after.length);
  let from = 0;
  while (from < most && before[from] === after[from]) from++;
  let behind = 0;
  while (behind < most - from && before.at(-1 - behind) === after.at(-1 - behind)) behind++;
  return { from, to: before.length - behind, insert: after.slice(from, after.length - behind) };
}

/** Leaves the text, but where words are offered: these are closed first. */
const leaving =
  (leave: () => void) =>
  ({ state }: EditorView): boolean => {
    if (completionStatus(state) === 'active') return false;
    leave();
    return true;
  };

/** A key's command that is always its own, whatever comes of it. */
const doing =
  (run: (view: EditorView) => unknown) =>
  (view: EditorView): boolean => {
    run(view);
    return true;
  };

/** The state that was kept, where it is of this very text; else a new one. */
function stateFrom({ text, kept }: SheetEditorOptions, extensions: readonly unknown[]): EditorState {
  const config = { doc: text, extensions: extensions as never };
  try {
    const restored = EditorState.fromJSON(kept, config, { history: historyField });
    if (restored.doc.toString() === text) return restored;
  } catch {
    // Nothing was kept, or by another version.
  }
  return EditorState.create(config);
}

/** The selection; of none, the value of the line: behind a header's colon, a parameter's or a member's sign. */
function rangeOf(
  view: EditorView,
  field: ReturnType<typeof sheetField>,
): { readonly from: number; readonly to: number } {
  const { from, to, head } = view.state.selection.main;
  if (from < to) return { from, to };
  const line = view.state.doc.lineAt(head);
  const { kind } = view.state.field(field).read.lines[line.number - 1] ?? {};
  const before =
    kind === 'header'
      ? /^(?:✗ )?[^:]+:\s*(?:(?:Bearer|Basic|Token)\s+)?/i
      : kind === 'query'
        ? /^(?:✗ )?[^=]*=/
        : /^\s*(?:✗ )?"(?:[^"\\]|\\.)*":\s*"?/;
  const start = before.exec(line.text)?.[0].length ?? line.text.length;
  const end = kind === 'payload' ? line.text.replace(/"?,?\s*$/, '').length : line.text.length;
  return { from: line.from + start, to: line.from + Math.max(start, end) };
}

function selectedIn(view: EditorView, field: ReturnType<typeof sheetField>): string {
  const { from, to } = rangeOf(view, field);
  return view.state.sliceDoc(from, to);
}

function nextGroup({ groups }: ReadContext, at: number, by: 1 | -1): number {
  const starts = groups.map(({ from }) => from);
  const next = by === 1 ? starts.find((from) => from > at) : starts.findLast((from) => from < at);
  return next ?? at;
}
