import { percentDecoded, withoutDotSegments } from '../../http';
import { betweenMarks } from '../value';

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
): { readonly address: string; readonly credentials: string | undefined } {
  const whole = (/^[a-z][a-z0-9+.-]*:\/\//i.test(given) ? given : `http://${given}`).split('#', 1)[0] ?? '';
  if (!/^https?:/i.test(whole)) notes.push(`The address ${whole.slice(0, 60)} is not of HTTP.`);
  const [, scheme = '', user, host = '', path = '', search = ''] =
    /^([a-z][a-z0-9+.-]*:\/\/)(?:([^/?@]*)@)?([^/?]*)([^?]*)([\s\S]*)$/i.exec(whole) ?? [];
  // A file that is sent to a folder keeps its name there (curl manual, --upload-file).
  const named =
    isUpload && file !== undefined && path.endsWith('/') ? path + encodeURIComponent(lastPartOf(file)) : path;
  const shortened = keepsDots ? named : withoutDotSegments(named, (segment) => segment.replace(/%2e/gi, '.'));
  const joined = query.length === 0 ? search : `${search}${search === '' ? '?' : '&'}${query.join('&')}`;
  const address = `${scheme}${host}${target ?? shortened + joined}`;
  return {
    address: betweenMarks(address, (piece) =>
      piece.replace(/[^\0-\x7f]+/gu, (text) => encodeURIComponent(text.toWellFormed())),
    ),
    credentials: user === undefined ? undefined : percentDecoded(user.includes(':') ? user : `${user}:`),
  };
}

export const lastPartOf = (path: string): string => path.replace(/^.*[/\\]/, '');
