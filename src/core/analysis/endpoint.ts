import { splitAddress } from './naming';

/** What an endpoint's name is made of. */
export interface EndpointCall {
  readonly method: string;
  readonly url: string;
  readonly operation: string | undefined;
}

/** Segments that are never a fixed part of a path, whatever their neighbours: numbers, UUIDs, hex of 8 and more, dates. */
const VARYING = [
  /^\d+$/,
  /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i,
  /^(?=.*\d)[0-9a-f]{8,}$/i,
  /^\d{4}-\d{2}(-\d{2})?(T[\d:.]+Z?)?$/,
];
const isVarying = (segment: string): boolean => VARYING.some((pattern) => pattern.test(segment));

/** Otherwise equal paths with so many values at one place vary there, where the values look like names given to things. */
const NAMES_VARY_FROM = 2;
/** At the end of a path more are asked for: "sign-in" and "sign-up" are two things that a server does. */
const LAST_NAMES_VARY_FROM = 3;
/** And so many plain words: "beds", "huts" and "ridges" are more likely three things that a server does. */
const WORDS_VARY_FROM = 6;

/**
 * The endpoint of each call: method, host and path with its varying segments as {}, then the GraphQL operation. A
 * segment varies by its shape, or where otherwise equal paths of the same method and host differ at this one place.
 */
export function nameEndpoints(calls: readonly EndpointCall[]): string[] {
  const paths = calls.map(readPath);
  const varying = findVaryingPlaces(paths);
  return paths.map(({ prefix, segments, operation }) => {
    const pattern = segments.map((segment, at) => (varying.has(maskAt(prefix, segments, at)) ? '{}' : segment));
    return prefix + pattern.map(withExtension(segments)).join('/') + operation;
  });
}

interface Path {
  /** Method, scheme's host and the first slash. */
  readonly prefix: string;
  readonly segments: readonly string[];
  readonly operation: string;
}

/** An address may be a million characters long; what names an endpoint stands at the beginning. */
const READ_CHARS = 2000;
const READ_SEGMENTS = 24;

function readPath({ method, url, operation }: EndpointCall): Path {
  const address = splitAddress(url);
  const suffix = operation === undefined ? '' : ` ${operation}`;
  if (address === undefined) return { prefix: `${method} ${url.slice(0, 200)}`, segments: [], operation: suffix };
  const segments = address.path.slice(1, 1 + READ_CHARS).split('/', READ_SEGMENTS);
  const masked = segments.map((segment) => (isVarying(segment) ? '{}' : segment));
  return { prefix: `${method} ${address.host}/`, segments: masked, operation: suffix };
}

/** The path with one place open; a file's name stays apart from those of other types. */
const maskAt = (prefix: string, segments: readonly string[], at: number): string =>
  `${prefix}${segments.map((segment, place) => (place === at ? `*${extensionOf(segment)}` : segment)).join('/')}`;

const extensionOf = (segment: string): string => /\.[a-z]\w{0,5}$/i.exec(segment)?.[0] ?? '';

/** A masked file name keeps its extension: every photo is one endpoint, and no style is. */
const withExtension =
  (segments: readonly string[]) =>
  (masked: string, at: number): string =>
    masked === '{}' ? `{}${extensionOf(segments[at] ?? '')}` : masked;

function findVaryingPlaces(paths: readonly Path[]): ReadonlySet<string> {
  const valuesAt = new Map<string, { readonly values: Set<string>; readonly isLast: boolean }>();
  for (const { prefix, segments } of paths) {
    segments.forEach((segment, at) => {
      if (segment === '{}' || segment === '') return;
      const mask = maskAt(prefix, segments, at);
      const known = valuesAt.get(mask);
      if (known === undefined) valuesAt.set(mask, { values: new Set([segment]), isLast: at === segments.length - 1 });
      else known.values.add(segment);
    });
  }
  return new Set([...valuesAt].flatMap(([mask, { values, isLast }]) => (varies([...values], isLast) ? [mask] : [])));
}

/** Things are named "alba-norte", "ridge_1600" or "A7"; what a server does is named by plain words. */
function varies(values: readonly string[], isLast: boolean): boolean {
  const names = values.filter((value) =>
    /[\d_%.~-]|[a-z][A-Z]/.test(value.slice(0, value.length - extensionOf(value).length)),
  );
  return names.length >= (isLast ? LAST_NAMES_VARY_FROM : NAMES_VARY_FROM) || values.length >= WORDS_VARY_FROM;
}
