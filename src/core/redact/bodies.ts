import { base64Of, bytesFromBase64 } from '../content';
import { isObject, type Json, member } from '../har';

// Bodies that are left out, or made blank: what they were remains as sizes and types.

/** An entry without its response's body; its sizes stay. */
export const withoutBody = (entry: Json): Json =>
  withContent(entry, (content) =>
    Object.fromEntries(Object.entries(content).filter(([name]) => name !== 'text' && name !== 'encoding')),
  );

/** By so many bytes a picture or a font is known for what it is, and nothing of it is seen. */
const KEPT_BYTES = 32;

/** An entry whose body, if it is bytes, is as long as it was, of the same type, and empty behind its first bytes. */
export const withBlankBody = (entry: Json): Json =>
  withContent(entry, (content) => {
    const text = member(content as unknown as Json, 'text');
    const bytes = typeof text === 'string' && content['encoding'] === 'base64' ? bytesFromBase64(text) : undefined;
    if (bytes === undefined) return Object.fromEntries(Object.entries(content).filter(([name]) => name !== 'text'));
    return { ...content, text: base64Of(bytes.map((byte, at) => (at < KEPT_BYTES ? byte : 0))) };
  });

function withContent(entry: Json, change: (content: Readonly<Record<string, Json>>) => Record<string, Json>): Json {
  const response = member(entry, 'response');
  const content = member(response, 'content');
  if (!isObject(entry) || !isObject(response) || !isObject(content)) return entry;
  const changed = change(content as unknown as Record<string, Json>);
  return { ...entry, response: { ...response, content: changed } } as unknown as Json;
}
