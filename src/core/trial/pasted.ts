import type { HeldResponse } from './same';

/**
 * A response as somebody pastes it: an HTTP message (RFC 9112 2.1), or its body alone. Of a body alone status and headers
 * are those of the response that it is the measure of: only the bodies are held against each other.
 */
export function readPasted(text: string, like: HeldResponse): HeldResponse {
  const start = /^\s*HTTP\/[\d.]+ (\d{3})[^\n]*\n?/.exec(text);
  if (start === null) return { ...like, body: { type: 'text', text } };
  const rest = text.slice(start[0].length);
  const [head = '', ...body] = rest.split(/\r?\n\r?\n/);
  const isBodyOnly = rest.startsWith('\n') || rest.startsWith('\r\n');
  const headers = (isBodyOnly ? '' : head).split(/\r?\n/).flatMap((line) => {
    const at = line.indexOf(':');
    return at < 1 ? [] : [{ name: line.slice(0, at), value: line.slice(at + 1).trim() }];
  });
  const content = isBodyOnly ? rest.replace(/^\r?\n/, '') : body.join('\n\n');
  return { status: Number(start[1]), headers, body: { type: 'text', text: content } };
}
