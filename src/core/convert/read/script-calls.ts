import { bytesFromText } from '../../content';
import { encodedAround, type KnownValues, settledMarks } from '../value';
import {
  asText,
  FormParts,
  FormText,
  inBase64,
  ScriptBlob,
  ScriptEncoder,
  ScriptHeaders,
  ScriptRequest,
  ScriptUrl,
  Unknown,
} from './script-objects';

/** A value that cannot be told. */
export const UNTOLD: unique symbol = Symbol('untold');

/** The most characters that a repeated text may have. */
const MOST_REPEATED = 1_000_000;

type Maker = (given: readonly unknown[], values: KnownValues) => unknown;

/** Functions whose result depends on what they are given alone, by their names. */
const FUNCTIONS: Readonly<Record<string, Maker>> = {
  'JSON.stringify': ([value, , indent], values) => {
    const space = typeof indent === 'number' || typeof indent === 'string' ? indent : undefined;
    const text = JSON.stringify(plain(value), null, space) as string | undefined;
    return text === undefined ? undefined : settledMarks(text, (one) => JSON.stringify(one).slice(1, -1), values);
  },
  String: ([value]) => asText(value),
  Number: ([value]) => (typeof value === 'string' && value.includes('‹') ? UNTOLD : Number(value)),
  encodeURIComponent: ([value], values) =>
    encodedAround(asText(value), (piece) => encodeURIComponent(piece.toWellFormed()), values),
  encodeURI: ([value], values) => encodedAround(asText(value), (piece) => encodeURI(piece.toWellFormed()), values),
  btoa: ([value]) => inBase64(asText(value)) ?? UNTOLD,
};

/** What `new` makes, by the name that stands behind it. */
const CLASSES: Readonly<Record<string, Maker>> = {
  FormData: () => new FormParts(),
  URLSearchParams: ([init], values) => new FormText(init ?? '', values),
  Headers: ([init]) => new ScriptHeaders(init),
  Blob: ([pieces, options]) => ScriptBlob.of(pieces, options) ?? UNTOLD,
  Uint8Array: ([bytes]) =>
    Array.isArray(bytes) ? new ScriptBlob(Uint8Array.from(bytes as number[], Number), '') : UNTOLD,
  TextEncoder: () => new ScriptEncoder(),
  Request: ([url, init]) =>
    typeof url === 'string' || url instanceof ScriptUrl
      ? new ScriptRequest(asText(url), init instanceof Map ? (init as Map<string, unknown>) : new Map())
      : UNTOLD,
  URL: ([path, base], values) => {
    const [way, from] = [asText(path), base === undefined ? undefined : asText(base)];
    if (from === undefined) return new ScriptUrl(way, values);
    // The marks of variables are no part of an address yet: those are only put side by side.
    return new ScriptUrl(`${way}${from}`.includes('‹') ? joinUrl(from, way) : joinedUrl(way, from), values);
  },
};

/** What a call comes to; `UNTOLD` where that is not known. */
export function callFunction(name: string, given: readonly unknown[], isNew: boolean, values: KnownValues): unknown {
  const list = isNew ? CLASSES : FUNCTIONS;
  const made = Object.hasOwn(list, name) ? list[name] : undefined;
  return made === undefined || (name !== 'FormData' && given.some(holdsUnknown)) ? UNTOLD : made(given, values);
}

/** What a method of a value comes to; `UNTOLD` where that is not known. */
export function callMethod(on: unknown, method: string, given: readonly unknown[]): unknown {
  if (holdsUnknown(on) || given.some(holdsUnknown)) return UNTOLD;
  if (method === 'toString' && !(on instanceof Map)) return asText(on);
  if (method === 'join' && Array.isArray(on))
    return on
      .map((one: unknown) => (one == null ? '' : asText(one)))
      .join(given[0] === undefined ? ',' : asText(given[0]));
  if (on instanceof ScriptEncoder && method === 'encode') {
    const text = asText(given[0]);
    return text.includes('‹') ? UNTOLD : new ScriptBlob(bytesFromText(text), '');
  }
  if (typeof on !== 'string') return UNTOLD;
  if (method === 'concat') return on + given.map(asText).join('');
  if (on.includes('‹')) return UNTOLD;
  if (method === 'trim') return on.trim();
  if (method === 'toUpperCase') return on.toUpperCase();
  if (method === 'toLowerCase') return on.toLowerCase();
  const times = Number(given[0]);
  if (method === 'repeat' && times >= 0 && times * on.length <= MOST_REPEATED) return on.repeat(times);
  return UNTOLD;
}

/** What stands in a member of a value; `UNTOLD` where that is not known. */
export function memberOf(on: unknown, name: string): unknown {
  if (on instanceof ScriptUrl) return name === 'searchParams' ? on.query : name === 'href' ? on.href : UNTOLD;
  if (on instanceof ScriptRequest)
    return name === 'url' ? on.url : name === 'headers' ? on.init.get('headers') : UNTOLD;
  if (!(on instanceof Map)) return UNTOLD;
  const members = on as Map<string, unknown>;
  const value = members.has(name) ? members.get(name) : UNTOLD;
  return value instanceof Unknown ? UNTOLD : value;
}

const joinUrl = (base: string, path: string): string =>
  base.replace(/\/+$/, '') + (path.startsWith('/') ? path : `/${path}`);

function joinedUrl(path: string, base: string): string {
  try {
    return new URL(path, base).href;
  } catch {
    return joinUrl(base, path);
  }
}

export const holdsUnknown = (value: unknown): boolean =>
  value instanceof Unknown ||
  (Array.isArray(value) && value.some(holdsUnknown)) ||
  (value instanceof Map && [...(value as Map<string, unknown>).values()].some(holdsUnknown));

/** Maps as the objects that they stand for. */
function plain(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(plain);
  if (value instanceof ScriptUrl) return value.href;
  if (!(value instanceof Map)) return typeof value === 'object' && value !== null ? {} : value;
  const object: Record<string, unknown> = Object.create(null) as Record<string, unknown>;
  for (const [key, member] of value as Map<string, unknown>) object[key] = plain(member);
  return object;
}
