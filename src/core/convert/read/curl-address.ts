import { percentDecoded, withoutDotSegments } from '../../http';
import { betweenMarks, type KnownValues } from '../value';

/** What decides over the address beside what was given. */
export interface AddressOptions {
  /** Sent in place of path and query. */
  readonly target: string | undefined;
  readonly keepsDots: boolean;
  /** The payload is this file; sent by --upload-file, it may name the address. */
  readonly file: string | undefined;
  readonly isUpload: boolean;
}

/**
 * The address that curl asks for: with a scheme, without fragment, the query's parts added, dot segments removed, what
 * is beyond ASCII encoded; and the user and password that stood in it, which go into a header.
 */
export function addressOf(
  given: string,
  { target, keepsDots, file, isUpload }: AddressOptions,
  query: readonly string[],
  notes: string[],
  values: KnownValues,
): { readonly address: string; readonly credentials: string | undefined } {
  const whole = withScheme(given, 'http', values).split('#', 1)[0] ?? '';
  if (!/^(?:https?:|‹)/i.test(whole)) notes.push(`The address ${whole.slice(0, 60)} is not of HTTP.`);
  const [, scheme = '', user, host = '', path = '', search = ''] =
    /^([a-z][a-z0-9+.-]*:\/\/|)(?:([^/?@]*)@)?([^/?]*)([^?]*)([\s\S]*)$/i.exec(whole) ?? [];
  // A file that is sent to a folder keeps its name there (curl manual, --upload-file).
  const named =
    isUpload && file !== undefined && /^$|\/$/.test(path)
      ? `${path || '/'}${encodeURIComponent(lastPartOf(file))}`
      : path;
  const shortened = keepsDots ? named : withoutDotSegments(named, (segment) => segment.replace(/%2e/gi, '.'));
  const sign = search === '' ? '?' : search === '?' ? '' : '&';
  // A "#" in what is added ends the address there, as one in it does.
  const joined = query.length === 0 ? search : `${search}${sign}${query.join('&')}`.split('#', 1)[0];
  // A host beyond ASCII goes out in another way: see `withAsciiHost`.
  const sent = betweenMarks(target ?? shortened + joined, (piece) =>
    piece.replace(/[^\0-\x7f]+/gu, (text) => encodeURIComponent(text.toWellFormed())),
  );
  return {
    address: `${scheme}${host}${sent}`,
    credentials: user === undefined ? undefined : percentDecoded(user.includes(':') ? user : `${user}:`),
  };
}

/** A scheme as addresses begin with it. */
const SCHEME = /^[a-z][a-z0-9+.-]*:\/\//i;
/** What variables are called that hold a host alone: by the last of their words. */
const HOST_NAME = /(?:host(?:name)?|domain|server)\d*$|(?:^|_)ip\d*$/i;

/**
 * An address with the scheme that a client adds where it has none. One that begins with a variable has what that holds; of
 * a value that is not known here the variable's name tells whether it is a host or a whole address.
 */
export function withScheme(address: string, scheme: string, values: KnownValues): string {
  const name = /^‹(\w+)›/.exec(address)?.[1];
  const value = name === undefined ? undefined : values.get(name)?.value;
  const begins = name === undefined ? address : value || (HOST_NAME.test(name) ? '' : 'https://');
  return SCHEME.test(begins) ? address : `${scheme}://${address}`;
}

/** A text with some of its characters encoded by their bytes (RFC 3986 2.1). Marks stay. */
export const encodedBut = (text: string, encoded: RegExp): string =>
  betweenMarks(text, (piece) => piece.toWellFormed().replace(encoded, encodeURIComponent));

/** A path without its dot segments (RFC 3986 5.2.4), whatever stands behind it. */
export function withoutDots(pathAndQuery: string): string {
  const [, path = '', search = ''] = /^([^?]*)([\s\S]*)$/.exec(pathAndQuery) ?? [];
  return withoutDotSegments(path) + search;
}

export const lastPartOf = (path: string): string => path.replace(/^.*[/\\]/, '');
