import { essence } from '../har';
import type { ResponsePart } from '../model';

const READ_CHARS = 1_000_000;
const SHOWN_CHARS = 160;

/**
 * What a successful answer says went wrong: GraphQL's errors (GraphQL 7.1.2), problem details (RFC 9457), or a member
 * that is named error and is not empty. Undefined where it says nothing of the kind.
 */
export function findErrorInside(response: ResponsePart, text: string | undefined): string | undefined {
  const type = essence(response.mimeType) ?? '';
  if (response.status < 200 || response.status >= 300 || text === undefined || text.length > READ_CHARS)
    return undefined;
  if (!/json$/.test(type) || !/"(errors?|title|detail)"\s*:/.test(text)) return undefined;
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return undefined;
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
  const { errors, error, title, detail } = value as Record<string, unknown>;
  if (Array.isArray(errors) && errors.length > 0) return messageOf(errors[0]);
  if (type === 'application/problem+json') return messageOf(detail ?? title ?? value);
  const isNothing = error === undefined || error === null || error === false || error === '' || error === 0;
  return isNothing ? undefined : messageOf(error);
}

function messageOf(value: unknown): string {
  const message = typeof value === 'object' && value !== null ? (value as { message?: unknown }).message : value;
  return (typeof message === 'string' ? message : JSON.stringify(value)).slice(0, SHOWN_CHARS);
}
