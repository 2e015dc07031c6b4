import { diffLines } from 'diff';
import { leavesOf, requestFields } from '../analysis';
import { readPolicy } from '../cache';
import { parseExactJson } from '../json';
import { type Exchange, findResponse, PHASES } from '../model';
import { formatBytes, formatMs, formatSpan, PHASE_NAME } from '../wording';

/** The parts of an exchange, in the order of the dossier. */
export const PARTS = [
  'timing and size',
  'path',
  'query',
  'request header',
  'payload',
  'status',
  'response header',
  'caching',
  'body',
] as const;
export type Part = (typeof PARTS)[number];

/** What an exchange has at least; of what was pasted there is but a request, or a response. */
export type Half = 'request' | 'response' | 'timing';

const HALF_OF: Record<Part, Half> = {
  'timing and size': 'timing',
  path: 'request',
  query: 'request',
  'request header': 'request',
  payload: 'request',
  status: 'response',
  'response header': 'response',
  caching: 'response',
  body: 'response',
};

/** Something that is not the same in both; undefined where one of them has none. */
export interface Difference {
  readonly part: Part;
  readonly name: string;
  readonly here: string | undefined;
  readonly there: string | undefined;
}

export interface ExchangeComparison {
  readonly differences: readonly Difference[];
  /** How many fields of each part are the same in both. */
  readonly same: Readonly<Partial<Record<Part, number>>>;
  /** Differences that were left out, where there are more than anybody reads. */
  readonly leftOut: number;
  /** Parts that only one of the two has: nothing can be said of these. */
  readonly notHad: readonly Part[];
}

/** One of the two. */
export interface ComparedSide {
  readonly exchange: Exchange;
  /** Text of its payload and of its body; absent where it has none or it is no text. */
  readonly payload: string | undefined;
  readonly body: string | undefined;
  /** What there is of it; absent where it is whole. */
  readonly has?: readonly Half[];
}

const MOST_DIFFERENCES = 600;
const SHOWN_CHARS = 500;
/** Longer bodies are compared as a whole. */
const COMPARED_CHARS = 2_000_000;
const LINES_LIMIT_MS = 300;

/** What is not the same in two exchanges, part by part. */
export function compareExchanges(here: ComparedSide, there: ComparedSide): ExchangeComparison {
  const differences: Difference[] = [];
  const same: Partial<Record<Part, number>> = {};
  let leftOut = 0;
  const compare = (part: Part, name: string, a: string | undefined, b: string | undefined): void => {
    if (a === b) same[part] = (same[part] ?? 0) + 1;
    else if (differences.length >= MOST_DIFFERENCES) leftOut++;
    else differences.push({ part, name, here: a?.slice(0, SHOWN_CHARS), there: b?.slice(0, SHOWN_CHARS) });
  };
  const isHad = (part: Part): boolean =>
    [here, there].every(({ has }) => has === undefined || has.includes(HALF_OF[part]));
  for (const [part, fields] of partsOf(here, there)) {
    if (!isHad(part)) continue;
    for (const [name, [a, b]] of fields) compare(part, name, a, b);
  }
  return { differences, same, leftOut, notHad: PARTS.filter((part) => !isHad(part)) };
}

type Fields = Map<string, [string | undefined, string | undefined]>;

function partsOf(here: ComparedSide, there: ComparedSide): Map<Part, Fields> {
  const parts = new Map<Part, Fields>(PARTS.map((part) => [part, new Map()]));
  const put = (part: Part, name: string, value: string | undefined, side: 0 | 1): void => {
    const fields = parts.get(part);
    const pair = fields?.get(name) ?? [undefined, undefined];
    // Names that come more than once have all their values.
    const earlier = pair[side];
    pair[side] = earlier === undefined ? value : `${earlier}, ${value}`;
    fields?.set(name, pair);
  };
  for (const [at, side] of [here, there].entries()) {
    for (const { part, name, value } of fieldsOf(side)) put(part, name, value, at as 0 | 1);
  }
  putBodies(here.body, there.body, put);
  return parts;
}

interface FieldOfSide {
  readonly part: Part;
  readonly name: string;
  readonly value: string | undefined;
}

function* fieldsOf(side: ComparedSide): Generator<FieldOfSide> {
  const { exchange, payload } = side;
  const response = findResponse(exchange);
  yield { part: 'timing and size', name: 'total', value: formatMs(exchange.timeMs) };
  for (const phase of PHASES) {
    const ms = exchange.phases[phase];
    yield { part: 'timing and size', name: PHASE_NAME[phase], value: ms === undefined ? undefined : formatMs(ms) };
  }
  yield { part: 'timing and size', name: 'on the wire', value: formatBytes(exchange.wireBytes) };
  for (const { group, name, value } of requestFields({ exchange, payload, answer: undefined })) {
    yield { part: group === 'header' ? 'request header' : group, name, value };
  }
  yield { part: 'status', name: 'status', value: response === undefined ? 'none' : String(response.status) };
  for (const { name, value } of response?.headers ?? []) {
    if (!name.startsWith(':')) yield { part: 'response header', name: name.toLowerCase(), value };
  }
  yield* cachingFields(exchange);
}

/** What caching made of it, and allows (RFC 9111). */
function* cachingFields(exchange: Exchange): Generator<FieldOfSide> {
  yield { part: 'caching', name: 'source', value: exchange.source.value };
  const policy = readPolicy(exchange);
  if (policy === undefined) return;
  const fresh = policy.freshSeconds;
  yield { part: 'caching', name: 'may be stored', value: policy.isStorable ? 'yes' : 'no' };
  yield { part: 'caching', name: 'fresh for', value: fresh === undefined ? 'not said' : formatSpan(fresh * 1000) };
  yield { part: 'caching', name: 'fresh by', value: policy.basis };
  yield { part: 'caching', name: 'asked about each time', value: policy.mustAsk ? 'yes' : 'no' };
  yield { part: 'caching', name: 'validators', value: policy.validators.join(', ') || 'none' };
}

type Put = (part: Part, name: string, value: string | undefined, side: 0 | 1) => void;

/** JSON by its values, other text by its lines; what is too long for either as a whole. */
function putBodies(here: string | undefined, there: string | undefined, put: Put): void {
  const isLong = Math.max(here?.length ?? 0, there?.length ?? 0) > COMPARED_CHARS;
  const [a, b] = isLong
    ? [undefined, undefined]
    : [here, there].map((text) => (text === undefined ? undefined : parseExactJson(text)));
  if (a !== undefined && b !== undefined) {
    for (const { name, value } of leavesOf(a, '$', 0)) put('body', name, value, 0);
    for (const { name, value } of leavesOf(b, '$', 0)) put('body', name, value, 1);
    return;
  }
  const lines =
    isLong || here === undefined || there === undefined
      ? undefined
      : diffLines(here, there, { timeout: LINES_LIMIT_MS });
  if (lines === undefined) {
    put('body', 'text', here, 0);
    put('body', 'text', there, 1);
    return;
  }
  let line = 1;
  let removedFrom: number | undefined;
  for (const { added, removed, value, count } of lines) {
    // One field for each run of lines, under the line of this exchange at which it stands.
    const name = `from line ${added ? (removedFrom ?? line) : line}${added || removed ? '' : ' on'}`;
    if (!added) put('body', name, value, 0);
    if (!removed) put('body', name, value, 1);
    removedFrom = removed ? line : undefined;
    if (!added) line += count ?? 0;
  }
}
