import { Kind, type OperationDefinitionNode, parse, print } from 'graphql';
import { queryOf } from '../http';
import { parseExactJson, writeExactJson } from '../json';

/** One GraphQL operation that a request carries (GraphQL over HTTP 4). */
export interface GraphqlCall {
  /** Its name: by operationName, else as the query names it. */
  readonly name: string | undefined;
  readonly type: 'query' | 'mutation' | 'subscription' | undefined;
  /** The operation formatted; as it was sent where it cannot be parsed. Absent for a persisted query sent by its hash. */
  readonly query: string | undefined;
  /** The fragments that stand beside it, formatted, each by its name. */
  readonly fragments: readonly { readonly name: string; readonly text: string }[];
  /** The variables as JSON; absent where there are none. */
  readonly variables: string | undefined;
  /** The hash that stands for a query that the service knows already. */
  readonly persistedHash: string | undefined;
  /** Why the query cannot be parsed. */
  readonly problem: string | undefined;
}

export interface GraphqlPayload {
  readonly calls: readonly GraphqlCall[];
  /** Several operations in one request. */
  readonly isBatched: boolean;
}

/** Longer queries are shown as they are. */
const PARSED_CHARS = 300_000;

/**
 * The GraphQL operations in a request: in a JSON payload, alone or as a batch; as `application/graphql`; or in the query
 * of a GET. Undefined where the request carries none.
 */
export function readGraphql(
  url: string,
  mimeType: string | undefined,
  payload: string | undefined,
): GraphqlPayload | undefined {
  if (payload !== undefined && /^application\/graphql\b/i.test(mimeType ?? '')) {
    return { calls: [callOf({ query: payload })], isBatched: false };
  }
  const parsed = payload === undefined ? paramsOf(url) : parseExactJson(payload);
  const members = Array.isArray(parsed) ? parsed : [parsed];
  const calls = members.flatMap((member) => (isCall(member) ? callOf(member) : []));
  if (calls.length === 0 || calls.length < members.length) return undefined;
  return { calls, isBatched: Array.isArray(parsed) };
}

interface RawCall {
  readonly query?: unknown;
  readonly operationName?: unknown;
  readonly variables?: unknown;
  readonly extensions?: unknown;
}

function paramsOf(url: string): RawCall {
  const params = new URLSearchParams(queryOf(url));
  const get = (name: string): string | undefined => params.get(name) ?? undefined;
  const json = (name: string): unknown => parseExactJson(get(name) ?? '');
  return {
    query: get('query'),
    operationName: get('operationName'),
    variables: json('variables'),
    extensions: json('extensions'),
  };
}

/** A query must look like one (GraphQL 2.3, 2.8): search forms have a `query` as well, and ask for "query optimizers". */
const LOOKS_LIKE_QUERY =
  /^(?:\s|#[^\n]*\n)*(?:\{|(?:query|mutation|subscription)\b\s*(?:[A-Za-z_]\w*)?\s*[({@]|fragment\s+\w+\s+on\b)/;
export const looksLikeGraphql = (text: string): boolean => LOOKS_LIKE_QUERY.test(text);

function isCall(value: unknown): value is RawCall {
  if (typeof value !== 'object' || value === null) return false;
  const call = value as RawCall;
  if (typeof call.query === 'string') return looksLikeGraphql(call.query);
  return hashOf(call) !== undefined;
}

function hashOf({ extensions }: RawCall): string | undefined {
  const persisted = (extensions as { persistedQuery?: { sha256Hash?: unknown } } | undefined)?.persistedQuery;
  return typeof persisted?.sha256Hash === 'string' ? persisted.sha256Hash : undefined;
}

function callOf(call: RawCall): GraphqlCall {
  const query = typeof call.query === 'string' ? call.query : undefined;
  const asked = typeof call.operationName === 'string' && call.operationName !== '' ? call.operationName : undefined;
  const variables =
    call.variables === undefined || call.variables === null ? undefined : writeExactJson(call.variables);
  const common = { variables, persistedHash: hashOf(call) };
  const plain = { name: asked, type: undefined, query, fragments: [], problem: undefined, ...common };
  if (query === undefined || query.length > PARSED_CHARS) return plain;
  try {
    const { definitions } = parse(query, { maxTokens: 50_000 });
    const operations = definitions.filter((one): one is OperationDefinitionNode => {
      return one.kind === Kind.OPERATION_DEFINITION;
    });
    const run = operations.find(({ name }) => name?.value === asked) ?? operations[0];
    const fragments = definitions.flatMap((one) =>
      one.kind === Kind.FRAGMENT_DEFINITION ? { name: one.name.value, text: print(one) } : [],
    );
    return {
      name: asked ?? run?.name?.value,
      type: run?.operation,
      query: operations.map((one) => print(one)).join('\n\n'),
      fragments,
      problem: undefined,
      ...common,
    };
  } catch (error) {
    return { ...plain, problem: error instanceof Error ? error.message : String(error) };
  }
}

type Path = readonly (string | number)[];
interface Increment {
  readonly path?: Path;
  readonly subPath?: Path;
  readonly id?: string;
  readonly data?: unknown;
  readonly items?: readonly unknown[] | null;
}
interface Delivery extends Increment {
  readonly incremental?: readonly Increment[];
  readonly pending?: readonly { readonly id: string; readonly path: Path }[];
}

/**
 * The answer that a deferred GraphQL response comes to once all its parts are there (GraphQL incremental delivery, in
 * the forms with `path` and with `pending` ids). Undefined where the parts are no such response.
 */
export function mergeDeferred(parts: readonly string[]): string | undefined {
  const deliveries = parts.map((text) => parseExactJson(text) as Delivery | undefined);
  const [first, ...rest] = deliveries;
  if (first === undefined || typeof first !== 'object' || first === null || !('data' in first)) return undefined;
  const whole = { data: structuredClone(first.data) };
  const paths = new Map<string, Path>();
  for (const delivery of [first, ...rest]) {
    if (typeof delivery !== 'object' || delivery === null) return undefined;
    for (const { id, path } of delivery.pending ?? []) paths.set(id, path);
    const increments = delivery === first ? (delivery.incremental ?? []) : (delivery.incremental ?? [delivery]);
    for (const increment of increments) {
      const base = increment.path ?? paths.get(increment.id ?? '');
      if (Array.isArray(base)) insert(whole, [...base, ...(increment.subPath ?? [])], increment);
    }
  }
  return writeExactJson(whole);
}

type Container = Record<string | number, unknown>;
const isContainer = (value: unknown): value is Container => typeof value === 'object' && value !== null;

function insert(whole: { data: unknown }, path: Path, { data, items }: Increment): void {
  let target: unknown = whole.data;
  // Items go into the list, from the place that the path's last step names where it names one.
  const steps = items !== undefined && typeof path.at(-1) === 'number' ? path.slice(0, -1) : path;
  for (const step of steps) {
    if (!isContainer(target) || !Object.hasOwn(target, step)) return;
    target = target[step];
  }
  if (Array.isArray(items) && Array.isArray(target)) target.push(...items);
  else if (isContainer(data) && isContainer(target)) mergeInto(target, data);
}

function mergeInto(target: Container, data: Container): void {
  for (const [name, value] of Object.entries(data)) {
    const old = Object.hasOwn(target, name) ? target[name] : undefined;
    if (isContainer(old) && isContainer(value) && !Array.isArray(value)) mergeInto(old, value);
    else Object.defineProperty(target, name, { value, enumerable: true, configurable: true, writable: true });
  }
}
