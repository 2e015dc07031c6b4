import { percentEncoded, splitUrl, withoutDotSegments } from '../http';

// What clients make of a request-target before they send it, each measured on what arrives: see the tests of the targets.

/** What a client sends for a request-target: path and query, beginning with a slash. */
export type AddressRewrite = (target: string) => string;

const encode = (text: string, unsafe: RegExp): string => text.replace(unsafe, percentEncoded);

const STRAY_PERCENT = /%(?![0-9A-Fa-f]{2})/g;
const UNRESERVED = /[A-Za-z0-9._~-]/;

function parts(target: string): readonly [path: string, query: string | undefined] {
  const at = target.indexOf('?');
  return at === -1 ? [target, undefined] : [target.slice(0, at), target.slice(at + 1)];
}
const join = (path: string, query: string | undefined): string => (query === undefined ? path : `${path}?${query}`);

/** Goes out as it is written. */
export const sentAsIs: AddressRewrite = (target) => target;

/** Parsed by the URL Standard, path and query: undici, axios, older fetch, and what is built on the same rules. */
export const byUrlStandard: AddressRewrite = (target) => {
  const { pathname, search } = new URL(`http://a.example${target}`);
  return pathname + search;
};

/** The same, but a question mark with nothing behind it stays. */
export const byUrlStandardWhole: AddressRewrite = (target) => {
  const origin = 'http://a.example';
  return new URL(origin + target).href.slice(origin.length);
};

/** Browsers built on Chromium: two characters of a path are encoded that the URL Standard leaves, and an empty query stays. */
export const byBrowser: AddressRewrite = (target) => {
  const [path, query] = parts(byUrlStandardWhole(target));
  return join(encode(path, /[|^]/g), query);
};

/** wget 1: dots are resolved, and what no URL may contain is encoded. */
export const byWget: AddressRewrite = (target) => {
  const [path, query] = parts(encode(encode(target, STRAY_PERCENT), /[\\{}"<>|^`]/g));
  return join(withoutDotSegments(path), query);
};

/** requests, and httpie on top of it: needless encodings are undone, the others in capitals. */
export const byRequests: AddressRewrite = (target) => {
  const normal = target.replace(STRAY_PERCENT, '%25').replace(/%[0-9A-Fa-f]{2}/g, (code) => {
    const character = String.fromCharCode(Number.parseInt(code.slice(1), 16));
    return UNRESERVED.test(character) ? character : code.toUpperCase();
  });
  // Dots that were encoded come out after the others are resolved.
  const [path, query] = parts(encode(normal, /[\\{}"<>|^`[\]]/g));
  const [rawPath] = parts(target);
  const dotted = /%2e/i.test(rawPath) ? path : withoutDotSegments(path);
  return join(dotted, query === '' ? undefined : query);
};

/** httpx: encodings in capitals, dots resolved, odd characters encoded. */
export const byHttpx: AddressRewrite = (target) => {
  const capitals = target.replace(STRAY_PERCENT, '%25').replace(/%[0-9A-Fa-f]{2}/g, (code) => code.toUpperCase());
  const [path, query] = parts(encode(capitals, /[\\{}"<>|^`]/g));
  return join(withoutDotSegments(path), query);
};

/** Java's java.net.URI, given what it would refuse in its encoded form. */
export const byJava: AddressRewrite = (target) => {
  const [path, query] = parts(encode(encode(target, STRAY_PERCENT), /[\\{}"<>|^`[\]]/g));
  return join(path, query === '' ? undefined : query);
};

/** Drops a question mark with nothing behind it. */
export const withoutEmptyQuery: AddressRewrite = (target) => target.replace(/^([^?]*)\?$/, '$1');

/** Clients that were not measured: everything that some parser of URLs changes. */
export const byUnknownParser: AddressRewrite = (target) => {
  const [path, query] = parts(byRequests(target));
  return join(withoutDotSegments(path), query);
};

const SHOWN_CHARS = 24;

/** What a client writes another way, as it stands and as it goes out, around the first place; undefined where nothing. */
export function findRewrite(
  url: string,
  rewrite: AddressRewrite,
): { readonly stands: string; readonly goesOut: string } | undefined {
  const target = targetOfUrl(url);
  const sent = rewrite(target);
  if (sent === target) return undefined;
  let at = 0;
  while (at < target.length && target[at] === sent[at]) at++;
  let behind = 0;
  const most = Math.min(target.length, sent.length) - at;
  while (behind < most && target.at(-1 - behind) === sent.at(-1 - behind)) behind++;
  const from = Math.max(0, at - 1);
  const around = (text: string): string => {
    const piece = text.slice(from, text.length - behind + (behind > 0 ? 1 : 0));
    return piece.length > SHOWN_CHARS ? `${piece.slice(0, SHOWN_CHARS)}…` : piece;
  };
  return { stands: around(target), goesOut: around(sent) };
}

/** The request-target of a URL (RFC 9112 3.2.1). */
export function targetOfUrl(url: string): string {
  const { path = '', query = '' } = splitUrl(url) ?? {};
  return `${path === '' ? '/' : path}${query}`;
}

/**
 * An origin whose host is written in ASCII, as it goes out and is looked up (RFC 5890 2.3.2.1). One with a variable in its
 * host stays, and one that nobody can look up.
 */
export function withAsciiHost(origin: string): string {
  const [, before = '', host = '', port = ''] = /^([a-z][a-z0-9+.-]*:\/\/)(.*?)(:\d*)?$/is.exec(origin) ?? [];
  // Percent-encoded letters of a host are those letters (URL Standard, host parsing).
  if (!/[^\0-\x7f]|%/.test(host) || host.includes('‹')) return origin;
  const address = `http://${host}`;
  return URL.canParse(address) ? `${before}${new URL(address).hostname}${port}` : origin;
}

/** What Erlang's URIs may not have as it stands (RFC 3986 2.2). */
export const withErlangEncoding = (target: string): string => encode(encode(target, STRAY_PERCENT), /[\\{}"<>|^`[\]]/g);

/** Erlang's httpc: needless encodings are undone, the others in capitals, dots resolved, an empty query left out. */
export const byErlang: AddressRewrite = (target) => {
  const normal = withErlangEncoding(target).replace(/%[0-9A-Fa-f]{2}/g, (code) => {
    const character = String.fromCharCode(Number.parseInt(code.slice(1), 16));
    return UNRESERVED.test(character) ? character : code.toUpperCase();
  });
  const [path, query] = parts(normal);
  return join(withoutDotSegments(path), query === '' ? undefined : query);
};
