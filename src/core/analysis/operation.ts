import { looksLikeGraphql } from '../content';
import { parseJson } from '../json';
import type { RequestPart } from '../model';

/** Payloads longer than this are not searched: a GraphQL query is text that somebody wrote. */
const QUERY_LIMIT_CHARS = 200_000;

/**
 * The GraphQL operation that a request names: `operationName` in a JSON payload (or of a batch's first member) or, by GET,
 * in its address; else the name after query, mutation or subscription; else the hash that stands for a query that the
 * server knows. Undefined where the request is no GraphQL, or names none.
 */
export function findOperation(request: RequestPart): string | undefined {
  const parts = partsOfPayload(request) ?? partsOfAddress(request.url);
  if (parts === undefined) return undefined;
  const { operationName, query, hash } = parts;
  if (operationName !== undefined && operationName !== '') return operationName;
  const named = query === undefined ? undefined : NAMED.exec(query)?.[1];
  return named ?? (hash === undefined ? undefined : `hash ${hash.slice(0, HASH_CHARS)}`);
}

/** As many as tell the queries of one site apart. */
const HASH_CHARS = 8;
const NAMED = /(?:^|[}\s])(?:query|mutation|subscription)\s+([A-Za-z_]\w*)\s*[({@]/;

interface Parts {
  readonly operationName: string | undefined;
  readonly query: string | undefined;
  readonly hash: string | undefined;
}

function partsOfPayload(request: RequestPart): Parts | undefined {
  const text = request.payload?.recorded?.encoding === 'text' ? request.payload.recorded.text : undefined;
  if (text === undefined || text.length > QUERY_LIMIT_CHARS || !/"(?:query|persistedQuery)"/.test(text))
    return undefined;
  const parsed = parseJson(text);
  const first: unknown = Array.isArray(parsed) ? parsed[0] : parsed;
  if (typeof first !== 'object' || first === null) return undefined;
  const { operationName, query, extensions } = first as Record<string, unknown>;
  const [asked, hash] = [asText(query), hashOf(extensions)];
  if (hash === undefined && (asked === undefined || !looksLikeGraphql(asked))) return undefined;
  return { operationName: asText(operationName), query: asked, hash };
}

/** A query in an address is GraphQL's only if it reads like one, or is known by its hash: many sites ask `?query=hut`. */
function partsOfAddress(url: string): Parts | undefined {
  const mark = url.indexOf('?');
  if (mark === -1 || url.length > QUERY_LIMIT_CHARS) return undefined;
  const search = url.slice(mark + 1).replace(/#.*$/s, '');
  if (!/(?:^|&)(?:query|extensions)=/.test(search)) return undefined;
  const parameters = new URLSearchParams(search);
  const query = parameters.get('query') ?? undefined;
  const hash = hashOf(parseJson(parameters.get('extensions') ?? ''));
  if (hash === undefined && (query === undefined || !looksLikeGraphql(query))) return undefined;
  return { operationName: parameters.get('operationName') ?? undefined, query, hash };
}

function hashOf(extensions: unknown): string | undefined {
  const { persistedQuery } = (extensions ?? {}) as { persistedQuery?: { sha256Hash?: unknown } };
  return asText(persistedQuery?.sha256Hash);
}

const asText = (value: unknown): string | undefined => (typeof value === 'string' ? value : undefined);
