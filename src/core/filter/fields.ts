import { OUTCOME_CLASSES } from '../analysis';
import { isDelay } from '../cache';
import { KINDS, PARTIES, SOURCES } from '../model';

// The fields that a filter can ask for: what kind of value each has, and what it means.

/** Measures are in ms, bytes, or plain counts. */
export type Dimension = 'ms' | 'bytes' | 'count';

export type FieldSpec =
  | { readonly type: 'text'; readonly says: string }
  /** A text of which there are many, each with a name: query.page, req.accept. */
  | { readonly type: 'named'; readonly says: string }
  | { readonly type: 'number'; readonly dimension: Dimension; readonly says: string }
  | { readonly type: 'flag'; readonly says: string };

export const FIELDS = {
  number: { type: 'number', dimension: 'count', says: 'number of the exchange in the capture, from 0' },
  method: { type: 'text', says: 'request method' },
  status: { type: 'number', dimension: 'count', says: 'status code; 4xx for all from 400 to 499' },
  url: { type: 'text', says: 'whole address' },
  host: { type: 'text', says: 'host' },
  path: { type: 'text', says: 'path of the address, without the query' },
  query: { type: 'named', says: 'a query parameter, as query.NAME' },
  kind: { type: 'text', says: 'what it fetched: document, script, data ...' },
  source: { type: 'text', says: 'where the response came from: network, cache ...' },
  party: { type: 'text', says: 'first or third' },
  page: { type: 'text', says: 'id or title of the page' },
  outcome: { type: 'text', says: 'plain, cached, redirect or failed' },
  endpoint: { type: 'text', says: 'method, host and path with {} for what varies' },
  time: { type: 'number', dimension: 'ms', says: 'whole duration' },
  start: { type: 'number', dimension: 'ms', says: "start, relative to the page's" },
  end: { type: 'number', dimension: 'ms', says: "end, since the page's start" },
  blocked: { type: 'number', dimension: 'ms', says: 'blocked before it was sent' },
  setup: { type: 'number', dimension: 'ms', says: 'connection set-up: DNS, connect, TLS' },
  wait: { type: 'number', dimension: 'ms', says: 'wait for the first byte of the response' },
  receive: { type: 'number', dimension: 'ms', says: 'time to receive the response' },
  wire: { type: 'number', dimension: 'bytes', says: 'wire bytes of the response' },
  body: { type: 'number', dimension: 'bytes', says: 'body bytes, decoded' },
  saved: { type: 'number', dimension: 'bytes', says: 'body bytes served from cache' },
  depth: { type: 'number', dimension: 'count', says: 'steps of discovery from the document' },
  protocol: { type: 'text', says: 'HTTP version' },
  mime: { type: 'text', says: 'type of the response body' },
  operation: { type: 'text', says: 'GraphQL operation' },
  connection: { type: 'text', says: 'id of the connection' },
  req: { type: 'named', says: 'a request header, as req.NAME' },
  res: { type: 'named', says: 'a response header, as res.NAME' },
  cookie: { type: 'named', says: 'a cookie that was sent or set, as cookie.NAME' },
  forecast: {
    type: 'named',
    says: 'what a visit after so long does with it, as forecast.day: reused, revalidated, fetched',
  },
  failure: { type: 'text', says: 'why it failed: refused, reset, name-not-found, status ...' },
  finding: { type: 'text', says: 'id of a rule that found something about it' },
  fresh: { type: 'number', dimension: 'ms', says: 'how long a stored response is fresh' },
  roundtrip: { type: 'number', dimension: 'ms', says: 'the way to its host and back, by its shortest connect or wait' },
  failed: { type: 'flag', says: 'no response, cut off, or a status from 400' },
  errors: { type: 'flag', says: 'an error inside a response that was sent as a success' },
  storable: { type: 'flag', says: 'the browser may store the response' },
  opened: { type: 'flag', says: 'a connection was set up for it' },
  repeated: { type: 'flag', says: 'the same request was made more than once' },
  onroute: { type: 'flag', says: 'the load waited for it' },
  marked: { type: 'flag', says: 'somebody marked it' },
  note: { type: 'text', says: 'what somebody noted on it' },
  change: { type: 'text', says: 'what became of it: gone, new, slower, quicker, other, same' },
  'delta.start': { type: 'number', dimension: 'ms', says: 'how much later it starts than on the other side' },
  'delta.time': { type: 'number', dimension: 'ms', says: 'how much longer it takes' },
  'delta.blocked': { type: 'number', dimension: 'ms', says: 'how much longer it is blocked' },
  'delta.setup': { type: 'number', dimension: 'ms', says: 'how much longer the connection set-up takes' },
  'delta.wait': { type: 'number', dimension: 'ms', says: 'how much longer it waits' },
  'delta.receive': { type: 'number', dimension: 'ms', says: 'how much longer it receives' },
  'delta.wire': { type: 'number', dimension: 'bytes', says: 'how many more wire bytes it has' },
  'delta.body': { type: 'number', dimension: 'bytes', says: 'how many more body bytes it has' },
} as const satisfies Record<string, FieldSpec>;

export type FieldName = keyof typeof FIELDS;
type NamesOf<Type extends FieldSpec['type']> = {
  [Name in FieldName]: (typeof FIELDS)[Name] extends { readonly type: Type } ? Name : never;
}[FieldName];
export type TextField = NamesOf<'text'>;
export type NamedField = NamesOf<'named'>;
export type NumberField = NamesOf<'number'>;
export type FlagField = NamesOf<'flag'>;

export const FIELD_NAMES = Object.keys(FIELDS) as FieldName[];
export const specOf = (name: FieldName): FieldSpec => FIELDS[name];

/** Fields of text that have one of a few values: equal to anything else is a slip, and lets nothing through. */
export const FEW_VALUES: Readonly<Partial<Record<FieldName, readonly string[]>>> = {
  kind: KINDS,
  source: SOURCES,
  party: PARTIES,
  outcome: OUTCOME_CLASSES,
};

/** Fields that are known only once bodies were read: who names whom, what stands inside a success, what the rules found. */
export const OF_BODIES: ReadonlySet<FieldName> = new Set<FieldName>([
  'depth',
  'errors',
  'finding',
  'forecast',
  'onroute',
]);

/** Fields that exchanges have only beside those of another load. */
export type ComparedField = 'change' | DeltaField;
export type DeltaField = Extract<NumberField, `delta.${string}`>;
export const isCompared = (name: FieldName): name is ComparedField => name === 'change' || isDelta(name);
export const isDelta = (name: FieldName): name is DeltaField => name.startsWith('delta.');

/** A field as it stands in a filter. Named fields carry the name, which header names compare without case. */
export type FieldRef = { readonly name: TextField | NumberField } | { readonly name: NamedField; readonly key: string };

/** What older addresses and saved filters say. */
const OLDER_NAMES: ReadonlyMap<string, FieldName> = new Map([
  ['next', 'forecast'],
  ['held', 'blocked'],
  ['download', 'receive'],
]);

/** "host" or "query.page": undefined where there is no such field, or a name is missing or too many. */
export function readField(text: string, quotedKey?: string): FieldRef | FlagField | undefined {
  if (quotedKey === undefined && Object.hasOwn(FIELDS, text) && isDelta(text as FieldName))
    return { name: text as DeltaField };
  const dot = text.indexOf('.');
  const written = quotedKey !== undefined ? text : dot === -1 ? text : text.slice(0, dot);
  const name = OLDER_NAMES.get(written) ?? written;
  const key = quotedKey ?? (dot === -1 ? undefined : text.slice(dot + 1));
  if (!Object.hasOwn(FIELDS, name)) return undefined;
  const field = name as FieldName;
  const spec = specOf(field);
  if (field === 'forecast' && (key === undefined || !isDelay(key))) return undefined;
  if (spec.type === 'named') return key === undefined || key === '' ? undefined : { name: field as NamedField, key };
  if (key !== undefined) return undefined;
  return spec.type === 'flag' ? (field as FlagField) : { name: field as TextField | NumberField };
}

/** Units by dimension, as multiples of the first. */
export const UNITS: Record<Dimension, Readonly<Record<string, number>>> = {
  ms: { ms: 1, s: 1000, min: 60_000, h: 3_600_000, d: 86_400_000 },
  bytes: { B: 1, kB: 1000, MB: 1_000_000 },
  count: {},
};
