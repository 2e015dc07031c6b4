import { splitUrl } from '../http';
import type { ExchangeRow } from './exchange-row';

/** A name is for reading: of an address a million characters long the beginning is enough. */
const SHOWN_CHARS = 200;

/** The short name of an exchange: what stands last in its path, with its query; a GraphQL call adds its operation. */
export function nameExchange(row: Pick<ExchangeRow, 'url' | 'operation' | 'kind'>): string {
  const address = splitUrl(row.url);
  if (address === undefined) return encodeUnreadable(row.url.slice(0, SHOWN_CHARS));
  const path = address.path || '/';
  const segments = path.split('/').filter((segment) => segment !== '');
  const last = segments.at(-1) ?? '';
  // A document is known by its whole path, as people type it; anything else by its file.
  const base = row.kind === 'document' ? path : path.endsWith('/') && last !== '' ? `${last}/` : last || '/';
  const name = row.operation === undefined ? base + address.query : `${base} ${row.operation}`;
  return decode(name.slice(0, SHOWN_CHARS));
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: what breaks a line, or turns the direction of what follows.
const UNREADABLE = /[\u0000-\u001f\u007f-\u009f\u2028\u2029\u202a-\u202e\u2066-\u2069]/g;

/** A name stays one line that reads from left to right, whatever an address holds. */
const encodeUnreadable = (text: string): string => text.replace(UNREADABLE, encodeURIComponent);

function decode(text: string): string {
  try {
    return encodeUnreadable(decodeURIComponent(text));
  } catch {
    return encodeUnreadable(text);
  }
}

/** What an exchange without a host is called by it: `data:` and `blob:` URLs have none. */
export const NO_HOST = 'no host';
export const nameHost = (host: string): string => (host === '' ? NO_HOST : host);

/** A host as a sentence names it. */
export const hostInWords = (host: string): string => (host === '' ? 'URLs without a host' : host);

/** True where an address is of a browser extension: browsers give them schemes that end so. */
export const isOfExtension = (url: string): boolean => /^(?:[a-z]+-)*extension:\/\//i.test(url);
