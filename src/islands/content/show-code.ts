import { css } from '@codemirror/lang-css';
import { html } from '@codemirror/lang-html';
import { javascript } from '@codemirror/lang-javascript';
import { json } from '@codemirror/lang-json';
import { xml } from '@codemirror/lang-xml';
import { foldGutter, syntaxHighlighting } from '@codemirror/language';
import { EditorState, type Extension } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import type { Language } from '#core/content';
import { COLOURS, LOOK } from './code-look';

/** Languages that are coloured; the others are plain. */
const GRAMMARS: Partial<Record<Language, () => Extension>> = {
  javascript: () => javascript({ jsx: true }),
  css: () => css(),
  html: () => html(),
  xml: () => xml(),
  json: () => json(),
};

/**
 * Shows a text in an element. Its styles live in a shadow root, which needs no leave from the page's content security
 * policy. Returns the way to end it.
 */
export function showCode(host: HTMLElement, text: string, language: Language | undefined): () => void {
  const root = host.shadowRoot ?? host.attachShadow({ mode: 'open' });
  const grammar = language === undefined ? undefined : GRAMMARS[language];
  const extensions: Extension[] = [
    lineNumbers(),
    foldGutter(),
    EditorView.lineWrapping,
    EditorState.readOnly.of(true),
    EditorView.editable.of(false),
    EditorView.contentAttributes.of({ tabindex: '0', 'aria-label': 'Text of the body', 'aria-readonly': 'true' }),
    syntaxHighlighting(COLOURS),
    LOOK,
  ];
  if (grammar !== undefined) extensions.push(grammar());
  const view = new EditorView({ state: EditorState.create({ doc: text, extensions }), parent: root, root });
  return () => view.destroy();
}
