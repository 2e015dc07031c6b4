import { HighlightStyle } from '@codemirror/language';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';

/** By weight and tone before hue, so that it reads without colour. */
export const COLOURS = HighlightStyle.define([
  { tag: [tags.keyword, tags.tagName, tags.definitionKeyword], color: 'var(--net)', fontWeight: '600' },
  { tag: [tags.string, tags.special(tags.string), tags.attributeValue], color: 'var(--cached)' },
  { tag: [tags.comment], color: 'var(--soft)', fontStyle: 'italic' },
  { tag: [tags.number, tags.bool, tags.null, tags.atom, tags.unit, tags.color], color: 'var(--redirect)' },
  { tag: [tags.propertyName, tags.attributeName], color: 'var(--ink)', fontWeight: '600' },
  { tag: [tags.punctuation, tags.bracket, tags.angleBracket], color: 'var(--soft)' },
]);

export const LOOK = EditorView.theme({
  '&': { fontSize: '12px', maxHeight: '420px', backgroundColor: 'transparent', color: 'var(--ink)' },
  '&.cm-focused': { outline: '2px solid var(--route)' },
  '.cm-scroller': { overflow: 'auto', fontFamily: 'var(--font-mono, "Overpass Mono Variable", monospace)' },
  '.cm-gutters': { backgroundColor: 'var(--sheet)', color: 'var(--soft)', border: 'none' },
  '.cm-selectionBackground, &.cm-focused .cm-selectionBackground': { backgroundColor: 'var(--route-wash)' },
  '.cm-content': { padding: '4px 0' },
});
