import { css } from '@codemirror/lang-css';
import { html } from '@codemirror/lang-html';
import { javascript } from '@codemirror/lang-javascript';
import { json } from '@codemirror/lang-json';
import { xml } from '@codemirror/lang-xml';
import { foldGutter, HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { EditorState, type Extension } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import type { Language } from '#core/content';

/** Languages that are coloured; the others are plain. */
const GRAMMARS: Partial<Record<Language, () => Extension>> = {
  javascript: () => javascript({ jsx: true }),
  css: () => css(),
  html: () => html(),
  xml: () => xml(),
  json: () => json(),
};

/** By weight and tone before hue, so that it reads without colour. */
const COLOURS = HighlightStyle.define([
  { tag: [tags.keyword, tags.tagName, tags.definitionKeyword], color: 'var(--net)', fontWeight: '600' },
  { tag: [tags.string, tags.special(tags.string), tags.attributeValue], color: 'var(--spared)' },
  { tag: [tags.comment], color: 'var(--soft)', fontStyle: 'italic' },
  { tag: [tags.number, tags.bool, tags.null, tags.atom, tags.unit, tags.color], color: 'var(--redirect)' },
  { tag: [tags.propertyName, tags.attributeName], color: 'var(--ink)', fontWeight: '600' },
  { tag: [tags.punctuation, tags.bracket, tags.angleBracket], color: 'var(--soft)' },
]);

const LOOK = EditorView.theme({
  '&': { fontSize: '12px', maxHeight: '420px', backgroundColor: 'transparent', color: 'var(--ink)' },
  '&.cm-focused': { outline: '2px solid var(--route)' },
  '.cm-scroller': { overflow: 'auto', fontFamily: 'var(--font-mono, "Overpass Mono Variable", monospace)' },
  '.cm-gutters': { backgroundColor: 'var(--sheet)', color: 'var(--soft)', border: 'none' },
  '.cm-selectionBackground, &.cm-focused .cm-selectionBackground': { backgroundColor: 'var(--route-wash)' },
  '.cm-content': { padding: '4px 0' },
});

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
