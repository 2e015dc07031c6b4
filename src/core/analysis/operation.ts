import type { RequestPart } from '../model';

/** Payloads longer than this are not searched: a GraphQL query is text that somebody wrote. */
const QUERY_LIMIT_CHARS = 200_000;

/**
 * The GraphQL operation that a request names: `operationName` in a JSON payload (or of a batch's first member), else
 * the name after query, mutation or subscription. Undefined where the request is no GraphQL.
 */
export function findOperation(request: RequestPart): string | undefined {
  const text = request.payload?.recorded?.encoding === 'text' ? request.payload.recorded.text : undefined;
  if (text === undefined || text.length > QUERY_LIMIT_CHARS || !text.includes('"query"')) return undefined;
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch {
    return undefined;
  }
  const first: unknown = Array.isArray(parsed) ? parsed[0] : parsed;
  if (typeof first !== 'object' || first === null) return undefined;
  const { operationName, query } = first as { operationName?: unknown; query?: unknown };
  if (typeof operationName === 'string' && operationName !== '') return operationName;
  if (typeof query !== 'string') return undefined;
  return /\b(?:query|mutation|subscription)\s+([A-Za-z_]\w*)/.exec(query)?.[1];
}
