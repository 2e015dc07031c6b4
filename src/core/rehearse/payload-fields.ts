import {
  boundaryOf,
  decodeText,
  type PayloadContent,
  readGraphql,
  readMultipart,
  readPayloadContent,
  textFromBytes,
} from '../content';
import { essence } from '../har';
import { readQuery } from '../http';
import { type JsonTree, pathTo, plainValue, readJsonTree } from '../json';
import { hashText, type NameValue, type RequestPart, sentPayloadBytes } from '../model';

/** What a payload says, whatever it is written as: its fields, where names may come more than once. */
export interface PayloadFields {
  readonly form: 'none' | 'fields' | 'parts' | 'json' | 'text' | 'bytes';
  readonly fields: readonly NameValue[];
}

const NO_PAYLOAD: PayloadFields = { form: 'none', fields: [] };
/** Longer values are told apart by their lengths and hashes. */
const KEPT_CHARS = 20_000;
/** Longer payloads are compared as a whole. */
const READ_BYTES = 5_000_000;

/** The fields of a captured request's payload; undefined where the capture does not hold it. */
export function capturedFields(request: RequestPart): PayloadFields | undefined {
  const { url, payload, bodyBytes } = request;
  const fields =
    payload === undefined ? NO_PAYLOAD : fieldsOf(url, payload.mimeType, readPayloadContent(payload, bodyBytes));
  return fields?.form === 'none' && sentPayloadBytes(request) !== 0 ? undefined : fields;
}

/** The fields of a payload as it arrived. */
export const arrivedFields = (url: string, mimeType: string | undefined, bytes: Uint8Array): PayloadFields =>
  fieldsOf(url, mimeType, { type: 'bytes', bytes }) ?? NO_PAYLOAD;

function fieldsOf(url: string, mimeType: string | undefined, content: PayloadContent): PayloadFields | undefined {
  switch (content.type) {
    case 'unrecorded':
      return undefined;
    case 'parts':
      return {
        form: 'parts',
        fields: content.parts.map(({ name, value, fileName }) =>
          fileName === undefined ? { name, value: short(value) } : { name, value: `file ${fileName}` },
        ),
      };
    case 'bytes':
      return content.bytes.length === 0 ? NO_PAYLOAD : fieldsOfBytes(url, mimeType, content.bytes);
    default:
      return content satisfies never;
  }
}

function fieldsOfBytes(url: string, mimeType: string | undefined, bytes: Uint8Array): PayloadFields {
  if (bytes.length > READ_BYTES) return { form: 'bytes', fields: [{ name: 'bytes', value: digest(bytes) }] };
  const boundary = /^multipart\//i.test(mimeType ?? '') ? boundaryOf(mimeType) : undefined;
  if (boundary !== undefined) return { form: 'parts', fields: partFields(bytes, boundary) };
  if (textFromBytes(bytes) === undefined && !/charset/i.test(mimeType ?? ''))
    return { form: 'bytes', fields: [{ name: 'bytes', value: digest(bytes) }] };
  const text = decodeText(bytes, mimeType);
  if (essence(mimeType) === 'application/x-www-form-urlencoded')
    return { form: 'fields', fields: readQuery(text).map(({ name, value }) => ({ name, value: short(value) })) };
  const tree = /^\s*[[{"\d\-tfn]/.test(text) ? readJsonTree(text) : undefined;
  if (tree === undefined || tree.problem !== undefined)
    return { form: 'text', fields: [{ name: 'text', value: short(text) }] };
  return { form: 'json', fields: jsonFields(url, mimeType, tree) };
}

/** JSON by its values; of GraphQL the query by what it says, not by how it is laid out. */
function jsonFields(url: string, mimeType: string | undefined, tree: JsonTree): NameValue[] {
  const graphql = readGraphql(url, mimeType, tree.text);
  const queryAt = graphql?.isBatched === true ? /^\$\[(\d+)\]\.query$/ : /^\$\.query$/;
  return leavesOf(tree).map(({ name, value }) => {
    const at = graphql === undefined ? null : queryAt.exec(name);
    const call = at === null ? undefined : graphql?.calls[Number(at[1] ?? 0)];
    const laidOut =
      call?.query === undefined || call.problem !== undefined
        ? value
        : [call.query, ...call.fragments.map((fragment) => fragment.text)].join('\n');
    return { name, value: short(laidOut) };
  });
}

const [ARRAY, NUMBER] = [1, 3];
/** A double holds no more digits (ECMAScript 6.1.6.1). */
const EXACT_DIGITS = 15;

/** The plain values of a JSON text by their paths, and what is empty; the ids that no double holds digit by digit. */
function leavesOf(tree: JsonTree): NameValue[] {
  const leaves: NameValue[] = [];
  for (let node = 0; node < tree.count; node++) {
    const kind = tree.kinds[node] ?? 0;
    if (kind <= ARRAY && (tree.sizes[node] ?? 0) > 0) continue;
    const written = tree.text.slice(tree.starts[node], tree.ends[node]);
    const isExact = kind === NUMBER && written.replace(/\D/g, '').length <= EXACT_DIGITS;
    const value =
      kind <= ARRAY ? (kind === ARRAY ? '[]' : '{}') : isExact ? String(Number(written)) : plainValue(tree, node);
    leaves.push({ name: pathTo(tree, node, 'jsonpath'), value });
  }
  return leaves;
}

const partFields = (bytes: Uint8Array, boundary: string): NameValue[] =>
  readMultipart(bytes, boundary).map((part, at) => {
    const name = part.name ?? `part ${at + 1}`;
    // Captures seldom hold what is in a file.
    if (part.fileName !== undefined) return { name, value: `file ${part.fileName}` };
    return { name, value: short(textFromBytes(part.bytes) ?? digest(part.bytes)) };
  });

const short = (text: string): string =>
  text.length <= KEPT_CHARS ? text : `${text.length} characters, ${hashText(text).toString(16)}`;

const digest = (bytes: Uint8Array): string => {
  let hash = 0x811c9dc5;
  // FNV-1a.
  for (const byte of bytes) hash = Math.imul(hash ^ byte, 0x01000193);
  return `${bytes.length} bytes, ${(hash >>> 0).toString(16)}`;
};

/** The same for payloads that say the same, in whatever order their fields come. */
export function payloadKey({ form, fields }: PayloadFields): string {
  const lines = fields.map(({ name, value }) => JSON.stringify([name, value])).sort();
  return `${form} ${lines.length} ${hashText(lines.join('\n'))}`;
}
