import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { javascript } from '@codemirror/lang-javascript';
import { json } from '@codemirror/lang-json';
import { StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { csharp, dart, java, kotlin } from '@codemirror/legacy-modes/mode/clike';
import { go } from '@codemirror/legacy-modes/mode/go';
import { http } from '@codemirror/legacy-modes/mode/http';
import { perl } from '@codemirror/legacy-modes/mode/perl';
import { powerShell } from '@codemirror/legacy-modes/mode/powershell';
import { python } from '@codemirror/legacy-modes/mode/python';
import { r } from '@codemirror/legacy-modes/mode/r';
import { ruby } from '@codemirror/legacy-modes/mode/ruby';
import { rust } from '@codemirror/legacy-modes/mode/rust';
import { shell } from '@codemirror/legacy-modes/mode/shell';
import { swift } from '@codemirror/legacy-modes/mode/swift';
import { EditorState, type Extension, Prec } from '@codemirror/state';
import { EditorView, keymap, lineNumbers } from '@codemirror/view';
import { COLOURS, LOOK } from '../content/code-look';

/** Grammars by the names of languages that targets have; the others are plain. */
const GRAMMARS: Readonly<Record<string, () => Extension>> = {
  JSON: () => json(),
  JavaScript: () => javascript(),
  Python: () => StreamLanguage.define(python),
  Go: () => StreamLanguage.define(go),
  Java: () => StreamLanguage.define(java),
  'C#': () => StreamLanguage.define(csharp),
  Kotlin: () => StreamLanguage.define(kotlin),
  Dart: () => StreamLanguage.define(dart),
  Ruby: () => StreamLanguage.define(ruby),
  Perl: () => StreamLanguage.define(perl),
  PowerShell: () => StreamLanguage.define(powerShell),
  Rust: () => StreamLanguage.define(rust),
  Swift: () => StreamLanguage.define(swift),
  R: () => StreamLanguage.define(r),
  Shell: () => StreamLanguage.define(shell),
  Batch: () => StreamLanguage.define(shell),
  HTTP: () => StreamLanguage.define(http),
};

export interface CodeEditor {
  /** Shows another text, where it is not the one that is there. */
  readonly show: (text: string) => void;
  readonly selected: () => string;
  readonly close: () => void;
}

export interface CodeEditorOptions {
  readonly text: string;
  readonly language: string;
  readonly label: string;
  /** Is drawn as long as it is: what is around it scrolls. */
  readonly isTall?: boolean;
  /** Hears of each change; without it the text is only read. */
  readonly onChange?: (text: string) => void;
}

/** An editor in an element. Its styles live in a shadow root, as the page's content security policy wants. */
export function openCode(
  host: HTMLElement,
  { text, language, label, isTall = false, onChange }: CodeEditorOptions,
): CodeEditor {
  const root = host.shadowRoot ?? host.attachShadow({ mode: 'open' });
  let isShowing = false;
  const isRead = onChange === undefined;
  const grammar = GRAMMARS[language];
  const extensions: Extension[] = [
    lineNumbers(),
    EditorView.lineWrapping,
    EditorState.readOnly.of(isRead),
    EditorView.contentAttributes.of({ tabindex: '0', 'aria-label': label, 'aria-readonly': String(isRead) }),
    // The undo of the text is the editor's; Tab leaves it, so that the keyboard is not caught (WCAG 2.1.2).
    ...(isRead ? [] : [history(), keymap.of([...defaultKeymap, ...historyKeymap])]),
    EditorView.updateListener.of((update) => {
      if (update.docChanged && !isShowing) onChange?.(update.state.doc.toString());
    }),
    syntaxHighlighting(COLOURS),
    LOOK,
    ...(isTall ? [Prec.highest(EditorView.theme({ '&': { maxHeight: 'none' } }))] : []),
    ...(grammar === undefined ? [] : [grammar()]),
  ];
  const view = new EditorView({ state: EditorState.create({ doc: text, extensions }), parent: root, root });
  return {
    show: (next) => {
      if (view.state.doc.toString() === next) return;
      isShowing = true;
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: next } });
      isShowing = false;
    },
    selected: () => view.state.sliceDoc(view.state.selection.main.from, view.state.selection.main.to),
    close: () => view.destroy(),
  };
}
