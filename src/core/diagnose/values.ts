import { decodeText, readPayloadContent } from '../content';
import { readQuery, takeApart } from '../http';
import { hashText, type NameValue, type RequestPart } from '../model';

// Whether a request used what an answer gave can be told by their values. They are kept as numbers, so that those of
// ten thousand answers find room: two values that share a number are as rare as one in four thousand million.

/** Answers of more values tell nothing: what was used of them stands among too many. */
const MOST_VALUES = 5000;
const MOST_CHARS = 5_000_000;
/** Shorter values are equal by chance, unless their name says that they are for going on. */
const LEAST_CHARS = 4;
const GOES_ON = /next|cursor|after|continu|token|offset|page/i;
/** What every request of a browser carries. */
const COMMON_HEADER =
  /^(accept|accept-.*|cache-control|connection|content-.*|date|dnt|host|if-.*|origin|pragma|priority|range|referer|sec-.*|te|upgrade.*|user-agent|:.*)$/i;

/** The values of a request that an earlier answer could have given: of its address, its payload and its own headers. */
export function askedValues(request: RequestPart): Uint32Array {
  const values = new Set<number>();
  const address = takeApart(request.url);
  for (const segment of address?.segments ?? []) values.add(hashText(segment));
  for (const { value } of address?.query ?? []) values.add(hashText(value));
  for (const { name, value } of request.headers) {
    if (/^cookie$/i.test(name)) for (const pair of value.split(';')) values.add(hashText(valueIn(pair)));
    else if (!COMMON_HEADER.test(name)) values.add(hashText(withoutScheme(name, value)));
  }
  const payload = request.payload === undefined ? undefined : readPayloadContent(request.payload, request.bodyBytes);
  if (payload?.type === 'parts') for (const { value } of payload.parts) values.add(hashText(value));
  else if (payload?.type === 'bytes') {
    const text = decodeText(payload.bytes, undefined);
    const json = parsed(text);
    if (json === undefined) for (const { value } of readQuery(text)) values.add(hashText(value));
    else for (const { value } of scalarsOf(json)) values.add(hashText(value));
  }
  return Uint32Array.from(values);
}

/**
 * The values that an answer gave: of its JSON, its cookies and its Location.
 * @returns undefined where its body is not there, is no JSON, or holds too many to tell
 */
export function givenValues(headers: readonly NameValue[], json: string | undefined): Uint32Array | undefined {
  const root = json === undefined || json.length > MOST_CHARS ? undefined : parsed(json);
  if (root === undefined) return undefined;
  const values = new Set<number>();
  for (const { name, value } of headers) {
    if (/^set-cookie$/i.test(name)) values.add(hashText(valueIn(value.split(';', 1)[0] ?? '')));
    else if (/^(location|etag|link)$/i.test(name) || /token|csrf|xsrf/i.test(name)) values.add(hashText(value));
  }
  for (const { name, value } of scalarsOf(root)) {
    if (values.size >= MOST_VALUES) return undefined;
    if (value.length >= LEAST_CHARS || GOES_ON.test(name)) values.add(hashText(value));
    // Addresses are followed as a whole or in part.
    if (/^(https?:\/)?\//.test(value)) for (const one of value.split(/[/?&=]/)) addLong(values, one);
  }
  return Uint32Array.from(values);
}

/**
 * True where a request has a value that the answer gave and that none of the requests before it had.
 * @param askedBefore the values of the requests before it
 */
export function usesAnswer(asked: Uint32Array, given: Uint32Array, askedBefore: ReadonlySet<number>): boolean {
  const fresh = asked.filter((value) => !askedBefore.has(value));
  if (fresh.length === 0) return false;
  const has = new Set(given);
  return fresh.some((value) => has.has(value));
}

function addLong(values: Set<number>, text: string): void {
  if (text.length >= LEAST_CHARS) values.add(hashText(text));
}

const valueIn = (pair: string): string => pair.slice(pair.indexOf('=') + 1).trim();

/** Credentials without the scheme before them (RFC 9110 11.4). */
const withoutScheme = (name: string, value: string): string =>
  /authorization$/i.test(name) ? value.replace(/^[\w-]+\s+/, '') : value;

/** All plain values of a JSON value with the names that they stand under. */
function* scalarsOf(root: unknown): Generator<NameValue> {
  const stack: { readonly name: string; readonly value: unknown }[] = [{ name: '', value: root }];
  for (let top = stack.pop(); top !== undefined; top = stack.pop()) {
    const { name, value } = top;
    if (typeof value === 'string' || typeof value === 'number') yield { name, value: String(value) };
    else if (Array.isArray(value)) for (const item of value) stack.push({ name, value: item });
    else if (typeof value === 'object' && value !== null)
      for (const [key, member] of Object.entries(value)) stack.push({ name: key, value: member });
  }
}

function parsed(text: string): unknown {
  if (!/^\s*[[{]/.test(text)) return undefined;
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
