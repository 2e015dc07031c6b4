import { looksLikeGraphql } from '#core/content';
import {
  type Draft,
  type DraftPayload,
  encodeParts,
  FALLBACK_BOUNDARY,
  payloadBytes,
  withContentType,
} from '#core/convert';

/** How a payload is edited: by what its type says, or by what it holds. */
export type PayloadKind = 'none' | 'json' | 'graphql' | 'form' | 'parts' | 'text' | 'bytes' | 'file';

export const KIND_LABELS: readonly (readonly [PayloadKind, string])[] = [
  ['none', 'none'],
  ['json', 'JSON'],
  ['graphql', 'GraphQL'],
  ['form', 'form'],
  ['parts', 'multipart form'],
  ['text', 'text'],
  ['bytes', 'bytes'],
  ['file', 'a file'],
];

const TYPES: Partial<Record<PayloadKind, string>> = {
  json: 'application/json',
  graphql: 'application/json',
  form: 'application/x-www-form-urlencoded',
  text: 'text/plain',
  bytes: 'application/octet-stream',
  file: 'application/octet-stream',
};

/** What kind of payload a draft has. */
export function kindOf({ payload, headers }: Draft): PayloadKind {
  switch (payload.type) {
    case 'none':
    case 'unrecorded':
      return 'none';
    case 'bytes':
    case 'parts':
    case 'file':
      return payload.type;
    case 'text': {
      const type = headers.find(({ name }) => name.toLowerCase() === 'content-type')?.value ?? '';
      if (/x-www-form-urlencoded/i.test(type)) return 'form';
      if (!/^text\//i.test(type) && readOperation(payload.text) !== undefined) return 'graphql';
      return /[/+]json/i.test(type) || (type === '' && /^\s*[[{]/.test(payload.text)) ? 'json' : 'text';
    }
    default:
      return payload satisfies never;
  }
}

/**
 * A GraphQL operation in JSON: its text and its variables; undefined where a payload is none.
 * @param isAsked somebody says that it is one, however little of it is written yet
 */
export function readOperation(
  text: string,
  isAsked = false,
):
  | { readonly query: string; readonly variables: string; readonly rest: Readonly<Record<string, unknown>> }
  | undefined {
  try {
    const value: unknown = JSON.parse(text);
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
    const { query, variables, ...rest } = value as { query?: unknown; variables?: unknown };
    if (typeof query !== 'string') return undefined;
    if (!isAsked && !looksLikeGraphql(query)) return undefined;
    return { query, variables: variables === undefined ? '' : JSON.stringify(variables, null, 2), rest };
  } catch {
    return undefined;
  }
}

/** The JSON of an operation; undefined where its variables are no JSON. */
export function writeOperation(
  query: string,
  variables: string,
  rest: Readonly<Record<string, unknown>>,
): string | undefined {
  try {
    const parsed: unknown = variables.trim() === '' ? undefined : JSON.parse(variables);
    return JSON.stringify({ ...rest, query, ...(parsed === undefined ? {} : { variables: parsed }) });
  } catch {
    return undefined;
  }
}

/** The same payload as another kind: what it says stays as far as the kind can hold it. */
export function asKind(draft: Draft, kind: PayloadKind): Draft {
  const bytes = payloadBytes(draft.payload) ?? new Uint8Array();
  const text = new TextDecoder().decode(bytes);
  const typed =
    kind === 'parts' || kind === 'none' ? withContentType(draft, undefined) : withContentType(draft, TYPES[kind]);
  return { ...typed, payload: payloadOf(kind, text, bytes, draft.payload) };
}

function payloadOf(kind: PayloadKind, text: string, bytes: Uint8Array, before: DraftPayload): DraftPayload {
  switch (kind) {
    case 'none':
      return { type: 'none' };
    case 'json':
      return { type: 'text', text: text === '' ? '{}' : text };
    case 'graphql':
      return { type: 'text', text: readOperation(text) === undefined ? JSON.stringify({ query: '{ }' }) : text };
    case 'form':
    case 'text':
      return { type: 'text', text };
    case 'bytes':
      return { type: 'bytes', bytes };
    case 'file':
      return { type: 'file', path: 'payload.bin' };
    case 'parts':
      return before.type === 'parts' ? before : { type: 'parts', boundary: FALLBACK_BOUNDARY, parts: [] };
    default:
      return kind satisfies never;
  }
}

/** How long a form of parts is once it is put together, in bytes. */
export const formBytes = (payload: Extract<DraftPayload, { readonly type: 'parts' }>): number =>
  encodeParts(payload.parts, payload.boundary).length;

/** Where a text stops being JSON, in words; undefined where it is JSON. Marks of variables count as values. */
export function jsonProblem(text: string): string | undefined {
  const filled = text.replace(/\{\{[A-Za-z]\w*\}\}/g, '0');
  try {
    JSON.parse(filled);
    return undefined;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}
