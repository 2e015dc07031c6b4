import { boundaryOf, readMultipart } from '../content';
import { essence } from '../har';
import { parseJson } from '../json';
import { findHeader, type ResponsePart } from '../model';

const READ_CHARS = 1_000_000;
const SHOWN_CHARS = 160;
const MAY_TELL = /"errors?"\s*:|"(success|ok)"\s*:\s*false|"status"\s*:\s*"(error|fail)"/;

/**
 * What a successful answer says went wrong: GraphQL's errors (GraphQL 7.1.2), also those of parts that came later
 * (multipart/mixed, GraphQL incremental delivery) and of a batch; problem details (RFC 9457); a success that is false; a
 * status or a member of that name that tells of an error beside no data. What is measured or logged tells of none, whatever
 * its members are called. Undefined where it says nothing of the kind.
 */
export function findErrorInside(response: ResponsePart, text: string | undefined): string | undefined {
  const type = essence(response.mimeType) ?? '';
  if (response.status < 200 || response.status >= 300 || text === undefined || text.length > READ_CHARS)
    return undefined;
  if (type !== 'application/problem+json' && !MAY_TELL.test(text)) return undefined;
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
  return errorOf(part) ?? firstOf([part, ...increments], errorOfExecution);
}

/** The first of GraphQL's errors, each of which has a message (GraphQL 7.1.2). */
function errorOfExecution(value: unknown): string | undefined {
  const { errors } = (value ?? {}) as Record<string, unknown>;
  if (!Array.isArray(errors) || errors.length === 0) return undefined;
  const areTold = errors.every((one) => typeof one === 'object' && one !== null && ('message' in one || 'code' in one));
  return areTold ? messageOf(errors[0]) : undefined;
}

/** A GraphQL response (GraphQL 7.1): no other members, and one of these two. */
const isExecution = (value: unknown): boolean =>
  typeof value === 'object' &&
  value !== null &&
  ('data' in value || 'errors' in value) &&
  Object.keys(value).every((name) => name === 'data' || name === 'errors' || name === 'extensions');

/** Members that tell of an error itself; whatever else an answer holds is its data. */
const OF_ERRORS: ReadonlySet<string> = new Set(
  'error errors message messages msg code status statusCode success ok detail details description title type reason timestamp time path instance extensions requestId request_id traceId trace_id data error_description error_uri hint help'.split(
    ' ',
  ),
);

function errorOf(value: unknown): string | undefined {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
  const { errors, error, success, ok, status, data, message } = value as Record<string, unknown>;
  const isAlone =
    isNothing(data) && Object.entries(value).every(([name, member]) => OF_ERRORS.has(name) || isNothing(member));
  if (success === false || (ok === false && isAlone)) return messageOf(firstTold(error, message, errors) ?? value);
  if (Array.isArray(errors) && errors.length > 0) {
    if (isAlone) return messageOf(errors[0]);
    if (isExecution(value)) return errorOfExecution(value);
  }
  if (!isAlone) return undefined;
  if (status === 'error' || status === 'fail') return messageOf(firstTold(message, error, errors) ?? value);
  // A number by itself is measured, or counted; with words beside it is a code.
  const isTold = typeof error === 'number' ? error !== 0 && typeof message === 'string' : !isNothing(error);
  return isTold ? messageOf(typeof error === 'object' ? error : firstTold(message, error)) : undefined;
}

const isNothing = (value: unknown): boolean =>
  value === undefined ||
  value === null ||
  value === false ||
  value === '' ||
  (typeof value === 'object' && Object.keys(value).length === 0);

/** The first that says anything in words, of lists their first member. */
function firstTold(...values: readonly unknown[]): unknown {
  const told = values.map((value) => (Array.isArray(value) ? value[0] : value));
  return (
    told.find((value) => typeof value === 'string' && value !== '') ??
    told.find((value) => typeof value === 'object' && !isNothing(value))
  );
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
