import { base64Of, bodyShape, bytesFromBase64, type Inflate, type SecretText, type Shape } from '../content';
import { isObject, type Json, type JsonObject, member, normaliseEntry } from '../har';
import { isPlainlyBytes, unpackText } from './unpacked';

/** What a text of an entry is: where secrets are looked for in it follows. */
export type TextRole =
  | { readonly type: 'header'; readonly name: string }
  | { readonly type: 'cookie'; readonly name: string }
  /** A parameter of the query, or a field of a form. */
  | { readonly type: 'pair'; readonly name: string }
  | { readonly type: 'content'; readonly text: SecretText; readonly mimeType?: string | undefined }
  | { readonly type: 'url' }
  /** A body whose bytes are no text, in base64. */
  | { readonly type: 'bytes'; readonly mimeType: string | undefined; readonly shape: Shape }
  /** A member that is not HAR's own, by its name. */
  | { readonly type: 'member'; readonly name: string }
  /** Anything else that a recorder writes. */
  | { readonly type: 'other' };

/** What core cannot do itself. */
export interface EntryTools {
  readonly inflate: Inflate;
}

type Change = (text: string, role: TextRole) => string;

/** The lists of an entry by the names of their members. */
const LISTS: Readonly<Record<string, (name: string) => TextRole>> = {
  headers: (name) => ({ type: 'header', name }),
  cookies: (name) => ({ type: 'cookie', name }),
  queryString: (name) => ({ type: 'pair', name }),
  params: (name) => ({ type: 'pair', name }),
};

/** Members that a recorder counts with or refers by: whatever stands there is no text of the page's. */
const OWN_WORDS: ReadonlySet<string> = new Set([
  'startedDateTime',
  'method',
  'httpVersion',
  'mimeType',
  'encoding',
  'expires',
]);

/** What goes with the walk through one entry. */
interface Walk {
  readonly change: Change;
  readonly tools: EntryTools;
  /** The coding that its response's body came in, as its headers say. */
  readonly coding: string | undefined;
}

/** An entry with each of its texts changed, names of members too; the entry itself stays as it is. */
export const mapEntry = (entry: Json, change: Change, tools: EntryTools): Json =>
  mapValue(entry, '', { change, tools, coding: codingOf(entry) });

/**
 * A changed entry with the size of its body where its recorder counted none and the body is another now: what stands in
 * the place of a secret may be longer or shorter than it was.
 */
export function withSize(before: Json, after: Json): Json {
  const own = member(member(before, 'response'), 'content');
  const response = member(after, 'response');
  const content = member(response, 'content');
  if (!isObject(before) || !isObject(after) || !isObject(response) || !isObject(content)) return after;
  const size = member(own, 'size');
  const text = member(own, 'text');
  if ((typeof size === 'number' && size > 0) || typeof text !== 'string' || text === member(content, 'text'))
    return after;
  const { bodyBytes } = normaliseEntry(before, 0);
  if (bodyBytes === undefined) return after;
  return { ...after, response: { ...response, content: { ...content, size: bodyBytes } } } as unknown as Json;
}

function codingOf(entry: Json): string | undefined {
  const headers = member(member(entry, 'response'), 'headers');
  if (!Array.isArray(headers)) return undefined;
  const found = headers.find((header) => /^content-encoding$/i.test(String(member(header, 'name'))));
  const value = member(found ?? null, 'value');
  return typeof value === 'string' ? value : undefined;
}

function mapValue(value: Json, key: string, walk: Walk): Json {
  const { change } = walk;
  if (typeof value === 'string') return OWN_WORDS.has(key) ? value : change(value, roleOf(value, key));
  if (typeof value === 'number') return mapNumber(value, key, change);
  if (Array.isArray(value)) {
    const roleFor = Object.hasOwn(LISTS, key) ? LISTS[key] : undefined;
    return value.map((item) =>
      roleFor !== undefined && isObject(item) ? mapPair(item, roleFor, walk) : mapValue(item, key, walk),
    );
  }
  if (!isObject(value)) return value;
  if (key === 'content' || key === 'postData') return mapContent(value, walk);
  return mapMembers(value, walk);
}

function mapMembers(value: JsonObject, walk: Walk): JsonObject {
  const { change } = walk;
  return Object.fromEntries(
    Object.entries(value).map(([name, own]) => [
      OWN_WORDS.has(name) ? name : change(name, { type: 'other' }),
      name === 'data' && typeof own === 'string'
        ? change(own, messageRole(own, member(value, 'opcode')))
        : mapValue(own, name, walk),
    ]),
  ) as JsonObject;
}

/** What stands for the type of a message that is no text. */
export const BINARY_MESSAGE = 'binary message';

/** A message of a socket: in base64 where it is binary (RFC 6455 5.2), which may be text all the same. */
const messageRole = (data: string, opcode: Json | undefined): TextRole =>
  opcode === 2 && isPlainlyBytes(data, undefined, undefined)
    ? { type: 'bytes', mimeType: BINARY_MESSAGE, shape: 'binary' }
    : { type: 'content', text: { type: 'text' } };

/** What HAR calls the texts that are neither addresses nor anybody's content (HAR 1.2). */
const HAR_NAMES: ReadonlySet<string> = new Set([
  'id',
  'pageref',
  'name',
  'value',
  'text',
  'statusText',
  'version',
  'connection',
  'serverIPAddress',
]);

function roleOf(text: string, key: string): TextRole {
  if (/^[a-z][a-z0-9+.-]{0,30}:\/\//i.test(text) || (key === 'redirectURL' && text !== '')) return { type: 'url' };
  if (key === 'comment') return { type: 'content', text: { type: 'text' } };
  return HAR_NAMES.has(key) ? { type: 'other' } : { type: 'member', name: key };
}

/** A number stays one: where its digits are replaced, they are by digits. Times and sizes are no secrets. */
function mapNumber(value: number, key: string, change: Change): number {
  if (!Number.isSafeInteger(value) || Math.abs(value) < LEAST_NUMBER || key === 'time' || key.endsWith('Size'))
    return value;
  const changed = Number(change(String(value), { type: 'other' }));
  return Number.isNaN(changed) ? value : changed;
}
/** Of fewer digits a number is no secret by itself. */
const LEAST_NUMBER = 1e9;

function mapPair(item: JsonObject, roleFor: (name: string) => TextRole, walk: Walk): JsonObject {
  const name = member(item, 'name');
  const role = roleFor(typeof name === 'string' ? name : '');
  return Object.fromEntries(
    Object.entries(item).map(([key, own]) => [
      key,
      key === 'value' && typeof own === 'string' ? walk.change(own, role) : mapValue(own, key, walk),
    ]),
  ) as JsonObject;
}

/** A body or a payload: its text as what its type says, unpacked where the recorder left it packed. */
function mapContent(value: JsonObject, walk: Walk): JsonObject {
  const role = contentRole(value);
  const isBase64 = member(value, 'encoding') === 'base64';
  return Object.fromEntries(
    Object.entries(value).map(([name, own]) => {
      if (name !== 'text' || typeof own !== 'string') return [name, mapValue(own, name, walk)];
      return [name, isBase64 ? mapBase64(own, role, typeIn(value), walk) : walk.change(own, role)];
    }),
  ) as JsonObject;
}

function typeIn(content: JsonObject): string | undefined {
  const mimeType = member(content, 'mimeType');
  return typeof mimeType === 'string' ? mimeType : undefined;
}

function contentRole(content: JsonObject): TextRole {
  const mimeType = typeIn(content) ?? '';
  const isForm = /x-www-form-urlencoded/i.test(mimeType);
  return { type: 'content', text: { type: isForm ? 'form' : 'text' }, mimeType };
}

/** Text in base64, packed or not; bytes that are no text stay as they are. */
function mapBase64(encoded: string, role: TextRole, mimeType: string | undefined, walk: Walk): string {
  const { change, tools, coding } = walk;
  if (isPlainlyBytes(encoded, mimeType, coding)) return change(encoded, bytesRole(encoded, mimeType));
  const bytes = bytesFromBase64(encoded);
  if (bytes === undefined) return change(encoded, role);
  const unpacked = unpackText(bytes, mimeType, coding, tools);
  if (unpacked === undefined) return change(encoded, bytesRole(encoded, mimeType));
  const changed = change(unpacked.text, role);
  // What nothing is taken out of stays as it was recorded, to the byte.
  return changed === unpacked.text ? encoded : base64Of(unpacked.write(changed));
}

/** First bytes tell a picture from what somebody may have written. */
const SHOWING_CHARS = 64;
const bytesRole = (encoded: string, mimeType: string | undefined): TextRole => ({
  type: 'bytes',
  mimeType,
  shape: bodyShape(mimeType, bytesFromBase64(encoded.slice(0, SHOWING_CHARS)) ?? new Uint8Array(), 'binary'),
});

/** What a body or a payload says, as secrets are looked for in it; undefined where none was recorded as text. */
export interface ReadContent {
  /** Undefined where its bytes are no text. */
  readonly text: string | undefined;
  readonly bytes: number;
  readonly role: TextRole;
}

/** Reads the `content` or `postData` of an entry (HAR 1.2). */
export function readContent(content: JsonObject, entry: Json, tools: EntryTools): ReadContent | undefined {
  const text = member(content, 'text');
  if (typeof text !== 'string') return undefined;
  const role = contentRole(content);
  const bytes = member(content, 'encoding') === 'base64' ? bytesFromBase64(text) : undefined;
  if (bytes === undefined) return { text, bytes: text.length, role };
  const unpacked = unpackText(bytes, typeIn(content), codingOf(entry), tools);
  return { text: unpacked?.text, bytes: bytes.length, role };
}
