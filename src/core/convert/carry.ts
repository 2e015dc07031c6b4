import { type Inflate, readBody } from '../content';
import { type Exchange, findResponse } from '../model';
import { type Draft, draftFromExchange, payloadBytes } from './draft';
import { freeName } from './edit';
import type { Preset } from './header-policy';

/** Where in an answer a value stands. */
export type CarrySource =
  | { readonly type: 'json'; readonly path: readonly (string | number)[] }
  | { readonly type: 'cookie'; readonly name: string }
  | { readonly type: 'location' };

/** A value that one answer gave and later requests used. */
export interface Carry {
  /** The variable that it becomes. */
  readonly name: string;
  readonly value: string;
  /** Number of the exchange whose answer gave it. */
  readonly from: number;
  readonly source: CarrySource;
  /** Numbers of the exchanges that used it. */
  readonly to: readonly number[];
}

/** A request of a sequence with what its answer held. */
export interface SequenceStep {
  readonly index: number;
  readonly draft: Draft;
  readonly answer: {
    /** The body's text where it is JSON. */
    readonly json: string | undefined;
    readonly setCookies: readonly string[];
    readonly location: string | undefined;
  };
}

/** Steps whose drafts take what earlier answers gave from variables. */
export interface Sequence {
  readonly steps: readonly SequenceStep[];
  readonly carries: readonly Carry[];
}

/** Shorter texts are equal by chance. */
const LEAST_CHARS = 8;
const MOST_VALUES = 5000;

/**
 * Finds the values that an answer was the first to hold and that later requests used, and puts variables in their
 * places. What a request held before its answer did is known from elsewhere.
 */
export function findCarries(steps: readonly SequenceStep[]): Sequence {
  const carries: Carry[] = [];
  const seen: string[] = [];
  const texts = steps.map(({ draft }) => textOf(draft));
  for (const [at, step] of steps.entries()) {
    seen.push(texts[at] ?? '');
    const later = steps.slice(at + 1);
    if (later.length === 0) break;
    const known = new Set<string>();
    for (const { value, source, wanted } of valuesOf(step)) {
      if (known.has(value) || carries.some((carry) => carry.value === value)) continue;
      known.add(value);
      const users = later.filter((_, place) => texts[at + 1 + place]?.includes(value) === true);
      if (users.length === 0 || seen.some((text) => text.includes(value))) continue;
      const name = carries.some((carry) => carry.name === wanted)
        ? `${freeName(step.draft, wanted)}_${carries.length + 1}`
        : freeName(step.draft, wanted);
      carries.push({ name, value, from: step.index, source, to: users.map(({ index }) => index) });
    }
  }
  // Longer values first: one may stand in another.
  const ordered = [...carries].sort((a, b) => b.value.length - a.value.length);
  return {
    carries,
    steps: steps.map((step) => {
      const own = ordered.filter(({ to }) => to.includes(step.index));
      return { ...step, draft: own.reduce(putIn, step.draft) };
    }),
  };
}

interface GivenValue {
  readonly value: string;
  readonly source: CarrySource;
  readonly wanted: string;
}

function* valuesOf({ answer }: SequenceStep): Generator<GivenValue> {
  for (const line of answer.setCookies) {
    const [, name = '', value = ''] = /^\s*([^=;]+)=([^;]*)/.exec(line) ?? [];
    if (value.length >= LEAST_CHARS) yield { value, source: { type: 'cookie', name: name.trim() }, wanted: name };
  }
  if (answer.location !== undefined && answer.location.length >= LEAST_CHARS) {
    yield { value: answer.location, source: { type: 'location' }, wanted: 'location' };
  }
  const root = answer.json === undefined ? undefined : parsed(answer.json);
  if (root === undefined) return;
  let count = 0;
  const stack: { readonly value: unknown; readonly path: readonly (string | number)[] }[] = [{ value: root, path: [] }];
  for (let top = stack.pop(); top !== undefined && count < MOST_VALUES; top = stack.pop()) {
    const { value, path } = top;
    if (typeof value === 'string' && value.length >= LEAST_CHARS) {
      count++;
      const last = path.findLast((step) => typeof step === 'string');
      yield { value, source: { type: 'json', path }, wanted: String(last ?? 'value') };
    } else if (typeof value === 'object' && value !== null) {
      const isList = Array.isArray(value);
      const members = Object.entries(value as Record<string, unknown>).reverse();
      for (const [key, member] of members) stack.push({ value: member, path: [...path, isList ? Number(key) : key] });
    }
  }
}

/** All of a request that a value could stand in. */
function textOf(draft: Draft): string {
  const bytes = payloadBytes(draft.payload);
  const payload = bytes === undefined ? '' : new TextDecoder().decode(bytes);
  const kept = draft.headers.filter((header) => header.kept).map(({ value }) => value);
  return [draft.url, ...kept, payload].join('\n');
}

function putIn(draft: Draft, { name, value }: Carry): Draft {
  const put = (text: string): string => text.replaceAll(value, `{{${name}}}`);
  return {
    ...draft,
    url: put(draft.url),
    headers: draft.headers.map((header) => ({ ...header, value: put(header.value) })),
    payload: draft.payload.type === 'text' ? { type: 'text', text: put(draft.payload.text) } : draft.payload,
    variables: [...draft.variables, { name, value, isSecret: false }],
  };
}

/** JSON as a value; undefined where a text is none. */
function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** A captured exchange as a step of a sequence. */
export function stepOf(exchange: Exchange, preset: Preset, inflate: Inflate): SequenceStep {
  const response = findResponse(exchange);
  const valuesOf = (name: string): string[] =>
    (response?.headers ?? []).flatMap((header) => (header.name.toLowerCase() === name ? header.value.split('\n') : []));
  const { kind, text } = readBody(response, inflate);
  return {
    index: exchange.index,
    draft: draftFromExchange(exchange, preset),
    answer: {
      json: kind === 'json' ? text : undefined,
      setCookies: valuesOf('set-cookie'),
      location: valuesOf('location')[0],
    },
  };
}
