import { percentDecoded } from '../http';
import type { NameValue } from '../model';

/** One part of a multipart body: its own headers, and its bytes as they lie in the whole. */
export interface BodyPart {
  readonly headers: readonly NameValue[];
  /** The form field's name; absent outside of forms. */
  readonly name: string | undefined;
  readonly fileName: string | undefined;
  readonly contentType: string | undefined;
  readonly bytes: Uint8Array;
}

const MOST_PARTS = 10_000;
const HEADERS_LIMIT_BYTES = 64 * 1024;

/** The boundary that a type names (RFC 2046 5.1.1); undefined where it names none. */
export function boundaryOf(mimeType: string | undefined): string | undefined {
  const match = /;\s*boundary\s*=\s*(?:"((?:[^"\\]|\\.)*)"|([^;\s]+))/i.exec(mimeType ?? '');
  return match === null ? undefined : (match[1]?.replace(/\\(.)/g, '$1') ?? match[2]);
}

/**
 * The parts of a multipart body (RFC 2046 5.1; form fields by RFC 7578 4). What stands before the first boundary and
 * after the last is left out; a last part that was cut off is given as far as it goes.
 */
export function readMultipart(bytes: Uint8Array, boundary: string): BodyPart[] {
  const delimiter = new TextEncoder().encode(`--${boundary}`);
  const parts: BodyPart[] = [];
  let at = nextDelimiter(bytes, delimiter, 0);
  while (at !== -1 && parts.length < MOST_PARTS) {
    const start = at + delimiter.length;
    if (bytes[start] === DASH && bytes[start + 1] === DASH) break;
    const next = nextDelimiter(bytes, delimiter, start);
    const from = skipLine(bytes, start);
    const to = next === -1 ? bytes.length : beforeLineEnd(bytes, next);
    if (from <= to) parts.push(readPart(bytes.subarray(from, to)));
    at = next;
  }
  return parts;
}

const DASH = 0x2d;
const CR = 0x0d;
const LF = 0x0a;

/** The next delimiter that stands at the beginning of a line. */
function nextDelimiter(bytes: Uint8Array, delimiter: Uint8Array, from: number): number {
  for (let at = bytes.indexOf(DASH, from); at !== -1; at = bytes.indexOf(DASH, at + 1)) {
    if (at > 0 && bytes[at - 1] !== LF) continue;
    let length = 0;
    while (length < delimiter.length && bytes[at + length] === delimiter[length]) length++;
    if (length === delimiter.length && isLineEnd(bytes, at + length)) return at;
  }
  return -1;
}

/** A boundary ends its line, white space aside; the last one has two dashes before. "--bold" is no "--b". */
function isLineEnd(bytes: Uint8Array, from: number): boolean {
  let at = bytes[from] === DASH && bytes[from + 1] === DASH ? from + 2 : from;
  while (bytes[at] === 0x20 || bytes[at] === 0x09) at++;
  return at >= bytes.length || bytes[at] === CR || bytes[at] === LF;
}

function skipLine(bytes: Uint8Array, from: number): number {
  const end = bytes.indexOf(LF, from);
  return end === -1 ? bytes.length : end + 1;
}

function beforeLineEnd(bytes: Uint8Array, at: number): number {
  const line = at - (bytes[at - 1] === LF ? 1 : 0);
  return line - (bytes[line - 1] === CR ? 1 : 0);
}

function readPart(bytes: Uint8Array): BodyPart {
  let at = 0;
  const headers: NameValue[] = [];
  while (at < Math.min(bytes.length, HEADERS_LIMIT_BYTES)) {
    const end = skipLine(bytes, at);
    const line = new TextDecoder().decode(bytes.subarray(at, end)).replace(/\r?\n$/, '');
    at = end;
    if (line === '') break;
    const last = headers.at(-1);
    // A line that begins with white space goes on with the one before (RFC 5322 2.2.3).
    if (last !== undefined && /^[ \t]/.test(line)) {
      headers[headers.length - 1] = { ...last, value: `${last.value} ${line.trim()}` };
      continue;
    }
    const colon = line.indexOf(':');
    if (colon > 0) headers.push({ name: line.slice(0, colon).trim(), value: line.slice(colon + 1).trim() });
  }
  const header = (name: string): string | undefined => headers.find((one) => one.name.toLowerCase() === name)?.value;
  const disposition = header('content-disposition');
  return {
    headers,
    name: formParameterOf(disposition, 'name'),
    fileName: formParameterOf(disposition, 'filename'),
    contentType: header('content-type'),
    bytes: bytes.subarray(at),
  };
}

/** A parameter behind a semicolon: its name, and its value in quotes or without. One in quotes may hold others' names. */
const PARAMETER = /;\s*([^\s=;"]+)\s*=\s*(?:"((?:[^"\\]|\\.)*)"|([^;]*))/g;

/**
 * The file name of a response's Content-Disposition as browsers take it: the extended form first (RFC 8187), else what is
 * written, marks before quotes taken out (RFC 6266 4.1) and what is encoded decoded.
 */
export function dispositionFileName(disposition: string): string | undefined {
  const parameters = parametersOf(disposition, (quoted) => quoted.replace(/\\(.)/g, '$1'));
  return extendedOf(parameters, 'filename') ?? percentDecoded(parameters.get('filename') ?? '');
}

/**
 * A parameter of a part of a form: browsers write a backslash as it stands (WHATWG HTML 4.10.22.8), others one before a quote
 * and before another one.
 */
function formParameterOf(disposition: string | undefined, name: string): string | undefined {
  if (disposition === undefined) return undefined;
  const parameters = parametersOf(disposition, (quoted) => quoted.replace(/\\([\\"])/g, '$1'));
  const written = parameters
    .get(name)
    ?.replace(/%22/g, '"')
    .replace(/%0D%0A/gi, '\r\n');
  return extendedOf(parameters, name) ?? written;
}

/** By their names; of those that stand twice the first counts. */
function parametersOf(disposition: string, unquote: (quoted: string) => string): ReadonlyMap<string, string> {
  const parameters = new Map<string, string>();
  for (const [, name = '', quoted, bare = ''] of disposition.matchAll(PARAMETER)) {
    const own = name.toLowerCase();
    if (parameters.has(own)) continue;
    if (quoted !== undefined) parameters.set(own, unquote(quoted));
    else if (bare.trim() !== '') parameters.set(own, bare.trim());
  }
  return parameters;
}

function extendedOf(parameters: ReadonlyMap<string, string>, name: string): string | undefined {
  const [, charset = '', text] = /^(utf-8|iso-8859-1)'[^']*'(.+)$/i.exec(parameters.get(`${name}*`) ?? '') ?? [];
  if (text === undefined) return undefined;
  return /^utf/i.test(charset) ? percentDecoded(text) : latin1Decoded(text);
}

const latin1Decoded = (text: string): string =>
  text.replace(/%([0-9a-f]{2})/gi, (_, code: string) => String.fromCharCode(Number.parseInt(code, 16)));

/**
 * A field of multipart/form-data in a text (RFC 7578 4.2), files aside: what stands before its value, its name and its value,
 * as far as that is one line.
 */
export const FORM_FIELD =
  /(?<head>;\s*name="(?<name>[^"\r\n]{1,200})"(?![^\r\n]*filename=)[^\r\n]*\r?\n(?:[^\r\n]+\r?\n)*\r?\n)(?<value>[^\r\n]{1,2000})/g;
