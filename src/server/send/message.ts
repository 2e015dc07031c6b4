import { bytesFromText } from '#core/content';
import { type Draft, planMessage } from '#core/convert';

/** What goes on the wire: a request as HTTP/1.1 has it (RFC 9112 3), with what the client adds. */
export interface WireRequest {
  readonly isSecure: boolean;
  readonly host: string;
  readonly port: number;
  /** Host and port as the address has them. */
  readonly authority: string;
  readonly method: string;
  /** The request-target, byte for byte. */
  readonly target: string;
  /** Names as they are written, in their order; values as bytes, one to a character. */
  readonly headers: readonly (readonly [name: string, value: string])[];
  /** Names of those that the client adds. */
  readonly added: readonly string[];
  readonly body: Uint8Array | undefined;
  /** What the draft asks for that cannot be sent. */
  readonly warnings: readonly string[];
}

/** What of a draft's payload is not there to be sent, in a sentence; undefined where all of it is. */
export function lackingPayload({ payload }: Draft): string | undefined {
  if (payload.type === 'unrecorded') return 'The request sent a payload that the capture does not hold.';
  if (payload.type === 'file') return `The payload is in the file ${payload.path}, which is not read.`;
  const part = payload.type === 'parts' ? payload.parts.find(({ bytes }) => bytes === undefined) : undefined;
  return part === undefined ? undefined : `The file "${part.fileName ?? part.name}" of the form is not in the capture.`;
}

/** No host has these, nor letters beyond ASCII once it is written as it goes out. */
const ODD_HOST = /[^\x21-\x7e]|[<>"\\^`{|}]/;
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is looked for.
const BREAKS = /[\u0000\r\n]/;
/** A method (RFC 9110 9.1, 5.6.2). */
const TOKEN = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;

/** A draft as what goes on the wire; a sentence where it names no address that can be asked. */
export function wireRequest(draft: Draft): WireRequest | string {
  const { method, authority, scheme, target, headers, added, body, warnings } = planMessage(draft);
  const [, bracketed, name = '', portText] = /^(?:\[([0-9a-f:.]+)\]|([^:]*))(?::(\d+))?$/i.exec(authority) ?? [];
  const host = bracketed ?? name;
  if (host === '' || ODD_HOST.test(host) || !/^https?$/i.test(scheme))
    return `"${draft.url.slice(0, 80)}" is no address that can be asked.`;
  const isSecure = /^https$/i.test(scheme);
  const port = portText === undefined ? (isSecure ? 443 : 80) : Number(portText);
  if (port < 1 || port > 65_535) return `${port} is no port.`;
  // Whatever ends a line would begin another one that nobody wrote (RFC 9112 11.1).
  const isBroken = [method, target, ...headers.flatMap(({ name, value }) => [name, value])].some((text) =>
    BREAKS.test(text),
  );
  if (isBroken || !TOKEN.test(method)) return 'The request holds characters that HTTP has no place for.';
  return {
    isSecure,
    host,
    port,
    authority,
    method,
    target,
    headers: headers.map(({ name, value }) => [name, Buffer.from(bytesFromText(value)).toString('latin1')]),
    added,
    body,
    warnings,
  };
}
