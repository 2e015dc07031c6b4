import { queryOf, splitUrl } from '../http';
import { parseExactJson, writeExactJson, writeStep } from '../json';
import type { Exchange, ExchangeIndex } from '../model';

/** Where a field of a call stands. */
export const FIELD_GROUPS = ['path', 'query', 'payload', 'header'] as const;
export type FieldGroup = (typeof FIELD_GROUPS)[number];

/**
 * How a field goes from call to call: it stays; it counts on by the same step; each value stood in the answer before,
 * as cursors do; or it varies in another way.
 */
export type Course =
  | { readonly type: 'stays' }
  | { readonly type: 'counts'; readonly step: number }
  | { readonly type: 'cursor' }
  | { readonly type: 'varies' };

/** A field of the calls to an endpoint, with its value in each; undefined where a call has none. */
export interface CallField {
  readonly group: FieldGroup;
  readonly name: string;
  readonly values: readonly (string | undefined)[];
  readonly course: Course;
}

export interface Variation {
  readonly calls: readonly ExchangeIndex[];
  /** What varies first, then what stays; within both in the order of the request. */
  readonly fields: readonly CallField[];
}

/** One call as it is compared with others. */
export interface Call {
  readonly exchange: Exchange;
  /** Text of its payload; absent where it has none. */
  readonly payload: string | undefined;
  /** Text of its answer, in which cursors are looked for. */
  readonly answer: string | undefined;
}

const SHOWN_CHARS = 2000;
/** Payloads have more members than anybody compares. */
const MOST_FIELDS = 400;

/** What varies and what stays over the calls to one endpoint, in the order of their starts. */
export function compareCalls(calls: readonly Call[]): Variation {
  const rows = new Map<
    string,
    { readonly group: FieldGroup; readonly name: string; readonly values: (string | undefined)[] }
  >();
  calls.forEach((call, at) => {
    for (const { group, name, value } of requestFields(call)) {
      const key = `${group} ${name}`;
      let row = rows.get(key);
      if (row === undefined) {
        if (rows.size >= MOST_FIELDS) continue;
        row = { group, name, values: new Array(calls.length).fill(undefined) };
        rows.set(key, row);
      }
      // A name that comes more than once has all its values.
      const earlier = row.values[at];
      row.values[at] = (earlier === undefined ? value : `${earlier}, ${value}`).slice(0, SHOWN_CHARS);
    }
  });
  const fields = [...rows.values()].map((row) => ({ ...row, course: findCourse(row.values, calls) }));
  const rank = ({ group, course }: CallField): number =>
    (course.type === 'stays' ? FIELD_GROUPS.length : 0) + FIELD_GROUPS.indexOf(group);
  return {
    calls: calls.map(({ exchange }) => exchange.index),
    fields: fields.sort((a, b) => rank(a) - rank(b)),
  };
}

interface FieldValue {
  readonly group: FieldGroup;
  readonly name: string;
  readonly value: string;
}

/** The fields of a call's request, those of its payload too. */
export function* requestFields({ exchange, payload }: Call): Generator<FieldValue> {
  const { request } = exchange;
  const path = splitUrl(request.url)?.path ?? '';
  const segments = path.split('/').slice(1, 25);
  for (const [at, value] of segments.entries()) yield { group: 'path', name: `segment ${at + 1}`, value };
  for (const [name, value] of new URLSearchParams(queryOf(request.url))) yield { group: 'query', name, value };
  yield* payloadFields(exchange, payload);
  for (const { name, value } of request.headers) {
    if (!name.startsWith(':')) yield { group: 'header', name: name.toLowerCase(), value };
  }
}

function* payloadFields({ request }: Exchange, text: string | undefined): Generator<FieldValue> {
  for (const { name, value, fileName } of request.payload?.params ?? []) {
    yield { group: 'payload', name, value: fileName ?? value };
  }
  if (text === undefined || request.payload?.params !== undefined) return;
  const parsed = parseExactJson(text);
  if (parsed !== undefined) yield* leavesOf(parsed, '$', 0);
  else if (/^[^\s=&]+=[^\s]*$/.test(text)) {
    for (const [name, value] of new URLSearchParams(text)) yield { group: 'payload', name, value };
  } else if (text !== '') yield { group: 'payload', name: 'text', value: text };
}

const MOST_DEPTH = 12;

/** The plain values in a JSON value, each by its path. */
export function* leavesOf(value: unknown, path: string, depth: number): Generator<FieldValue> {
  if (typeof value !== 'object' || value === null || depth >= MOST_DEPTH) {
    yield { group: 'payload', name: path, value: typeof value === 'string' ? value : writeExactJson(value) };
    return;
  }
  const members = Array.isArray(value)
    ? value.map((member, at): [string, unknown] => [writeStep(at), member])
    : Object.entries(value).map(([name, member]): [string, unknown] => [writeStep(name), member]);
  for (const [step, member] of members.slice(0, MOST_FIELDS)) yield* leavesOf(member, path + step, depth + 1);
}

/** Shorter values stand in any answer by chance. */
const LEAST_CURSOR_CHARS = 3;

function findCourse(values: readonly (string | undefined)[], calls: readonly Call[]): Course {
  const [first] = values;
  if (values.every((value) => value === first)) return { type: 'stays' };
  const step = findStep(values);
  if (step !== undefined) return { type: 'counts', step };
  const isCursor = values.every((value, at) => {
    const answer = calls[at - 1]?.answer;
    if (at === 0 || value === undefined) return at === 0 || value === values[at - 1];
    return value.length >= LEAST_CURSOR_CHARS && answer !== undefined && answer.includes(value);
  });
  return values.length > 1 && isCursor ? { type: 'cursor' } : { type: 'varies' };
}

/** The step by which whole numbers go on from call to call, where it is the same each time. */
export function findStep(values: readonly (string | undefined)[]): number | undefined {
  const numbers = values.flatMap((value) => (value !== undefined && /^-?\d{1,15}$/.test(value) ? Number(value) : []));
  if (numbers.length !== values.length || numbers.length < 2) return undefined;
  const step = (numbers[1] ?? 0) - (numbers[0] ?? 0);
  const isSteady = numbers.every((value, at) => at === 0 || value - (numbers[at - 1] ?? 0) === step);
  return isSteady && step !== 0 ? step : undefined;
}
