import { bytesFromLatin1, decodeText, encodeText, languageOf } from '../content';
import { essence } from '../har';
import { readHttpDate } from '../http';
import type { NameValue } from '../model';
import type { LocalAddresses } from './addresses';
import { rewritePolicy } from './policy';

/** What rewriting a page needs of its surroundings. */
export interface RewriteTools {
  /**
   * The digests of what an address of the page gives once it is rewritten, in place of those that it demands; undefined where
   * it is not captured, or did not hold in the capture either.
   */
  readonly digestsOf: (url: string, integrity: string) => string | undefined;
  /** The digest of a text as policies and integrity write it: `sha256-...`. */
  readonly hashOf: (algorithm: 'sha256' | 'sha384' | 'sha512', text: Uint8Array) => string;
}

/** A body with the rehearsal's addresses. */
export interface Rewritten {
  readonly bytes: Uint8Array;
  /** Digests of inline scripts and styles that are others now, by the captured ones. */
  readonly hashes: ReadonlyMap<string, string>;
}

type Written = 'html' | 'code' | 'text';

/** How the addresses in a body are written; undefined where it is left alone. */
function writtenAs(mimeType: string | undefined): Written | undefined {
  const type = essence(mimeType) ?? '';
  const language = languageOf(mimeType);
  if (language === 'html') return 'html';
  if (language === 'javascript' || language === 'json' || /^application\/(?:x-)?ndjson$/.test(type)) return 'code';
  if (
    language === 'css' ||
    language === 'xml' ||
    /^(?:text\/(?:plain|event-stream|vtt)|application\/(?:vnd\.apple\.|x-)mpegurl)$/.test(type)
  )
    return 'text';
  return undefined;
}

/**
 * The addresses of captured hosts in a body as those of the rehearsal: in pages, styles, scripts, JSON and lists. All else of
 * it stays as it is, byte for byte, whatever its charset.
 */
export function rewriteBody(
  bytes: Uint8Array,
  mimeType: string | undefined,
  addresses: LocalAddresses,
  tools: RewriteTools,
): Rewritten {
  const written = writtenAs(mimeType);
  const as = written === undefined ? undefined : readAscii(bytes, mimeType);
  if (written === undefined || as === undefined) return { bytes, hashes: new Map() };
  if (written === 'html') return rewritePage(as, addresses, tools);
  const text = written === 'code' ? addresses.rewriteCode(as.text) : addresses.rewrite(as.text);
  return { bytes: text === as.text ? bytes : as.write(text), hashes: new Map() };
}

interface AsText {
  readonly text: string;
  readonly write: (text: string) => Uint8Array;
}

/** Bytes one to a character: what is not ASCII is not looked at. UTF-16 has its own. */
function readAscii(bytes: Uint8Array, mimeType: string | undefined): AsText | undefined {
  const isWide = (bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff);
  if (!isWide && !/utf-?16/i.test(mimeType ?? ''))
    return { text: latin1Of(bytes), write: (text) => bytesFromLatin1(text) ?? bytes };
  const charset = bytes[0] === 0xfe ? 'utf-16be' : 'utf-16le';
  const mark = isWide ? bytes.subarray(0, 2) : new Uint8Array();
  const text = decodeText(bytes, `text/plain; charset=${charset}`);
  return {
    text,
    write: (changed) => {
      const made = encodeText(changed, charset) ?? new Uint8Array();
      const whole = new Uint8Array(mark.length + made.length);
      whole.set(mark);
      whole.set(made, mark.length);
      return whole;
    },
  };
}

const PIECE_BYTES = 32 * 1024;

function latin1Of(bytes: Uint8Array): string {
  const pieces: string[] = [];
  for (let at = 0; at < bytes.length; at += PIECE_BYTES)
    pieces.push(String.fromCharCode(...bytes.subarray(at, at + PIECE_BYTES)));
  return pieces.join('');
}

/** An inline script or style: its tag, what is in it, and its end (WHATWG HTML 13.2.5.4, 13.2.5.8). */
const INLINE = /(<(script|style)\b[^>]*>)([\s\S]*?)(<\/\2\b)/gi;
const TAG = /<(?:script|link|meta)\b[^>]*>/gi;

function rewritePage({ text, write }: AsText, addresses: LocalAddresses, tools: RewriteTools): Rewritten {
  const hashes = new Map<string, string>();
  const pieces: string[] = [];
  let at = 0;
  for (const match of text.matchAll(INLINE)) {
    const [whole, tag = '', element = '', inner = '', end = ''] = match;
    pieces.push(addresses.rewrite(text.slice(at, match.index)), addresses.rewrite(tag));
    const made = element.toLowerCase() === 'script' ? addresses.rewriteCode(inner) : addresses.rewrite(inner);
    if (made !== inner)
      for (const algorithm of ['sha256', 'sha384', 'sha512'] as const)
        hashes.set(tools.hashOf(algorithm, write(inner)), tools.hashOf(algorithm, write(made)));
    pieces.push(made, end);
    at = match.index + whole.length;
  }
  pieces.push(addresses.rewrite(text.slice(at)));
  const page = pieces.join('').replace(TAG, (tag) => rewriteTag(tag, addresses, hashes, tools));
  return { bytes: write(page), hashes };
}

/** Integrity of what is rewritten as well, and policies that stand in the page itself. */
function rewriteTag(
  tag: string,
  addresses: LocalAddresses,
  hashes: ReadonlyMap<string, string>,
  tools: RewriteTools,
): string {
  if (/^<meta/i.test(tag)) {
    if (!/http-equiv\s*=\s*["']?content-security-policy/i.test(tag)) return tag;
    return tag.replace(/(\bcontent\s*=\s*)("[^"]*"|'[^']*')/i, (_, before: string, value: string) => {
      const quote = value.charAt(0);
      // What was rewritten as an address already is taken back first: a policy names hosts without ports, too.
      return `${before}${quote}${rewritePolicy(addresses.takeBack(value.slice(1, -1)), addresses, hashes)}${quote}`;
    });
  }
  const integrity = attributeOf(tag, 'integrity');
  const url = attributeOf(tag, 'src') ?? attributeOf(tag, 'href');
  if (integrity === undefined || url === undefined) return tag;
  const made = tools.digestsOf(addresses.takeBack(url), integrity);
  return made === undefined ? tag : tag.replace(integrity, made);
}

function attributeOf(tag: string, name: string): string | undefined {
  const match = new RegExp(String.raw`\s${name}\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s>]+))`, 'i').exec(tag);
  return match?.[1] ?? match?.[2] ?? match?.[3];
}

/** Headers that say what the bytes are, by which other bytes would be damaged ones (RFC 9530; RFC 1864). */
const OF_BYTES = /^(?:content-md5|digest|content-digest|repr-digest)$/i;
/** Headers that send a browser elsewhere than to the rehearsal (RFC 6797; RFC 7838). */
const ELSEWHERE = /^(?:strict-transport-security|alt-svc)$/i;
const POLICY = /^content-security-policy(?:-report-only)?$/i;

/** The headers of a response with the rehearsal's addresses, the hosts of policies and cookies as well. */
export function rewriteHeaders(
  headers: readonly NameValue[],
  addresses: LocalAddresses,
  { hashes, isChanged }: { readonly hashes: ReadonlyMap<string, string>; readonly isChanged: boolean },
): NameValue[] {
  return headers.flatMap(({ name, value }): NameValue[] => {
    if (ELSEWHERE.test(name) || (isChanged && OF_BYTES.test(name))) return [];
    if (POLICY.test(name)) return [{ name, value: rewritePolicy(value, addresses, hashes) }];
    if (/^set-cookie$/i.test(name)) return [{ name, value: rewriteCookie(value, addresses) }];
    return [{ name, value: addresses.rewrite(value) }];
  });
}

/**
 * A cookie for the rehearsal's hosts (RFC 6265 4.1.2). By HTTP, "Secure" goes, since most clients would not send it back; where
 * browsers ask for it (SameSite=None, names that begin with __Secure- or __Host-) it stays: they take localhost for secure.
 */
function rewriteCookie(line: string, addresses: LocalAddresses): string {
  const [pair = '', ...attributes] = line.split(';');
  const needsSecure =
    /^\s*__(?:secure|host)-/i.test(pair) || attributes.some((one) => /^\s*samesite\s*=\s*none\s*$/i.test(one));
  const isSecure = addresses.localScheme('http') === 'https';
  const kept = attributes.flatMap((attribute) => {
    if (/^\s*secure\s*$/i.test(attribute)) return needsSecure || isSecure ? [attribute] : [];
    const [, before = '', domain = ''] = /^(\s*domain\s*=\s*)(\S+)\s*$/i.exec(attribute) ?? [];
    return [domain === '' ? attribute : `${before}${addresses.localDomain(domain)}`];
  });
  return [pair, ...kept].join(';');
}

/** Fields whose value is an instant that counts from when the response was given (RFC 9110 6.6.1, 10.2.3; RFC 9111 5.3). */
const INSTANTS = /^(?:date|expires|retry-after)$/i;

/**
 * Headers with their instants moved by so many ms, cookies' too: what was fresh for a day when it was captured is fresh for a day when
 * it is given again. What is no instant, as "0" and "-1" are none, stays.
 */
export function moveInstants(headers: readonly NameValue[], byMs: number): NameValue[] {
  const moved = (text: string): string => {
    const at = readHttpDate(text);
    return at === undefined ? text : new Date(at + byMs).toUTCString();
  };
  return headers.map(({ name, value }) => {
    if (INSTANTS.test(name)) return { name, value: moved(value) };
    if (!/^set-cookie$/i.test(name)) return { name, value };
    return {
      name,
      value: value.replace(/(;\s*expires\s*=\s*)([^;]+)/i, (_, before: string, at: string) => before + moved(at)),
    };
  });
}
