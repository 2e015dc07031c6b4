import { boundaryOf, readMultipart } from '../content';
import { essence } from '../har';
import { parseJson } from '../json';
import { findHeader, type ResponsePart } from '../model';

const READ_CHARS = 1_000_000;
const SHOWN_CHARS = 160;
const MAY_TELL = /"(errors?|title|detail)"\s*:/;

/**
 * What a successful answer says went wrong: GraphQL's errors (GraphQL 7.1.2), also those of parts that came later
 * (multipart/mixed, GraphQL incremental delivery) and of a batch, problem details (RFC 9457), or a member that is named
 * error and is not empty. Undefined where it says nothing of the kind.
 */
export function findErrorInside(response: ResponsePart, text: string | undefined): string | undefined {
  const type = essence(response.mimeType) ?? '';
  if (response.status < 200 || response.status >= 300 || text === undefined || text.length > READ_CHARS)
    return undefined;
  if (!MAY_TELL.test(text)) return undefined;
  if (type === 'multipart/mixed') return firstOf(partsOf(response, text), (part) => errorOfDelivery(parseJson(part)));
  if (!/json$/.test(type)) return undefined;
  const value = parseJson(text);
  // Other lists hold records, which may well have a member of that name.
  if (Array.isArray(value)) return firstOf(value, (member) => (isExecution(member) ? errorOf(member) : undefined));
  if (type !== 'application/problem+json' || typeof value !== 'object' || value === null) return errorOf(value);
  const { title, detail } = value as Record<string, unknown>;
  return messageOf(detail ?? title ?? value);
}

function partsOf(response: ResponsePart, text: string): string[] {
  const boundary =
    boundaryOf(response.mimeType) ?? boundaryOf(findHeader(response.headers, 'content-type')) ?? DEFAULT_BOUNDARY;
  return readMultipart(new TextEncoder().encode(text), boundary).map(({ bytes }) => new TextDecoder().decode(bytes));
}
/** What servers of deferred parts use where they name none. */
const DEFAULT_BOUNDARY = '-';

/** A part's own error, or that of one of the increments that it brings. */
function errorOfDelivery(part: unknown): string | undefined {
  const { incremental, completed } = (part ?? {}) as Record<string, unknown>;
  const increments = [incremental, completed].flatMap((list) => (Array.isArray(list) ? list : []));
  return errorOf(part) ?? firstOf(increments, errorOf);
}

/** A GraphQL response (GraphQL 7.1): no other members, and one of these two. */
const isExecution = (value: unknown): boolean =>
  typeof value === 'object' &&
  value !== null &&
  ('data' in value || 'errors' in value) &&
  Object.keys(value).every((name) => name === 'data' || name === 'errors' || name === 'extensions');

function errorOf(value: unknown): string | undefined {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
  const { errors, error } = value as Record<string, unknown>;
  if (Array.isArray(errors) && errors.length > 0) return messageOf(errors[0]);
  const isNothing = error === undefined || error === null || error === false || error === '' || error === 0;
  return isNothing ? undefined : messageOf(error);
}

function firstOf<T>(items: readonly T[], find: (item: T) => string | undefined): string | undefined {
  for (const item of items) {
    const found = find(item);
    if (found !== undefined) return found;
  }
  return undefined;
}

function messageOf(value: unknown): string {
  const message = typeof value === 'object' && value !== null ? (value as { message?: unknown }).message : value;
  return (typeof message === 'string' ? message : JSON.stringify(value)).slice(0, SHOWN_CHARS);
}
