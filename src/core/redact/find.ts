import {
  bytesFromBase64,
  FORM_FIELD,
  findSecrets,
  isSecretValue,
  looksRandom,
  type Shape,
  textFromBytes,
} from '../content';
import type { Json } from '../har';
import { type EntryTools, mapEntry, type TextRole } from './entry';
import { innerTexts } from './layers';
import { isUnderName, kindUnder } from './names';
import { findShapes, isRandomValue } from './shapes';
import type { SecretStore } from './store';

/** Bodies that nobody takes for text. */
const PICTURED: ReadonlySet<Shape> = new Set(['image', 'font', 'audio', 'video']);

/** Records of a protocol may be UTF-8 by chance; no text has these characters. */
const isOfBytes = (text: string): boolean => Array.from(text.slice(0, TELLING_CHARS)).some((sign) => sign < '\t');
const TELLING_CHARS = 1000;

/** Longer bodies are looked through by shape and by what is known already, not for what stands under names. */
const READ_CHARS = 8_000_000;

/** Takes everything into a store that looks like a secret in an entry. */
export function findInEntry(entry: Json, store: SecretStore, tools: EntryTools): void {
  mapEntry(
    entry,
    (text, role) => {
      findInText(text, role, store);
      return text;
    },
    tools,
  );
}

/** Takes what the user's own expressions match into a store, in every text of a value as it reads once unpacked. */
export function findOwn(value: Json, patterns: readonly RegExp[], store: SecretStore, tools: EntryTools): void {
  if (patterns.length === 0) return;
  const look = (text: string): string => {
    for (const pattern of patterns) for (const [found] of text.matchAll(pattern)) store.add(found, 'own', 'own');
    return text;
  };
  mapEntry(value, look, tools);
}

/** Takes everything into a store that looks like a secret in a text by itself, as a page's title is. */
export function findInText(text: string, role: TextRole, store: SecretStore): void {
  if (text === '') return;
  switch (role.type) {
    case 'header':
      findInHeader(role.name.toLowerCase(), text, store);
      break;
    case 'cookie':
      store.add(text, 'cookie', 'place', role.name);
      break;
    case 'pair':
      findUnder(role.name, text, store);
      if (isRandomValue(text)) store.add(text, 'random', 'shape', role.name);
      break;
    case 'url':
      addSpans(text, { type: 'url' }, store);
      addSegments(text, store);
      break;
    case 'content':
      if (text.length <= READ_CHARS) {
        addSpans(text, role.text, store);
        addParts(text, store);
        if (role.mimeType !== undefined && isOfBytes(text))
          store.leaveUnread({ why: 'bytes', mimeType: role.mimeType });
      } else store.leaveUnread({ why: 'long', mimeType: undefined });
      break;
    case 'bytes':
      if (!PICTURED.has(role.shape)) store.leaveUnread({ why: 'bytes', mimeType: role.mimeType });
      // What base64 has of shapes it has by chance.
      return;
    case 'member':
      findUnder(role.name, text, store);
      break;
    case 'other':
      break;
    default:
      role satisfies never;
  }
  for (const { kind, value } of findShapes(text)) store.add(value, kind, 'shape');
  if (role.type !== 'other' && text.length <= READ_CHARS) findInside(text, store, 1);
}

/** So many encodings inside one another are looked behind. */
const MOST_INNER = 3;

/** Looks through what stands encoded in a text: JSON in a string of JSON, in a cookie, in base64. */
function findInside(text: string, store: SecretStore, depth: number): void {
  for (const inner of innerTexts(text)) {
    addSpans(inner, { type: 'text' }, store);
    for (const { kind, value } of findShapes(inner)) store.add(value, kind, 'shape');
    if (depth < MOST_INNER) findInside(inner, store, depth + 1);
  }
}

function findUnder(name: string, value: string, store: SecretStore): void {
  const kind = kindUnder(name, value);
  if (kind !== undefined) store.add(value, kind, 'place', name);
  addSpans(value, { type: 'named', name: '' }, store);
}

/** Headers whose long values tell nothing of anybody. */
const NO_SECRETS: ReadonlySet<string> = new Set([
  'etag',
  'if-none-match',
  'content-security-policy',
  'content-md5',
  'digest',
  'sec-websocket-key',
  'sec-websocket-accept',
  'user-agent',
  'accept',
  'last-modified',
  'if-modified-since',
  'date',
]);

/** Headers in which proxies say whom they asked for (RFC 7239, and what was there before it). */
const FOR_WHOM: ReadonlySet<string> = new Set([
  'forwarded',
  'x-forwarded-for',
  'x-real-ip',
  'x-client-ip',
  'true-client-ip',
  'cf-connecting-ip',
]);
/** The port behind an IPv4 address is none of it; what follows a colon in IPv6 is. */
const bare = (port: string, at: number, text: string): string =>
  text.includes('.') && !text.slice(0, at).includes(':') ? '' : port;

function findInHeader(name: string, value: string, store: SecretStore): void {
  if (name === 'cookie') {
    for (const pair of value.split(/;\s*/)) addCookie(pair, store);
    return;
  }
  if (name === 'set-cookie') {
    for (const line of value.split('\n')) addCookie(line.split(';')[0] ?? '', store);
    return;
  }
  const credentials = /^(Bearer|Basic|Token|Digest|Negotiate|DPoP)\s+(.+)$/is.exec(value.trim());
  if (/^(?:proxy-)?authorization$/.test(name)) {
    store.add(credentials?.[2] ?? value, 'token', 'place', name);
    if (credentials?.[1]?.toLowerCase() === 'basic') addBasic(credentials[2] ?? '', store);
    // RFC 7616 3.4.
    const user = /\busername="([^"]+)"/i.exec(credentials?.[2] ?? '')?.[1];
    if (user !== undefined) store.add(user, 'person', 'place', name);
    return;
  }
  if (name.startsWith(':')) {
    addSpans(value, { type: 'url' }, store);
    return;
  }
  if (name === 'sec-websocket-protocol') {
    // What a page cannot send in a header of its own it sends as one of the protocols.
    for (const protocol of value.split(/,\s*/)) if (looksRandom(protocol)) store.add(protocol, 'token', 'place', name);
    return;
  }
  if (FOR_WHOM.has(name)) {
    for (const [whole] of value.matchAll(/[0-9a-f.:]{3,45}/gi)) {
      const address = whole.replace(/:\d+$/, bare);
      if (isUnderName('ip', address)) store.add(address, 'address', 'place', name);
    }
    return;
  }
  if (NO_SECRETS.has(name)) return;
  if (isSecretValue(name, value))
    store.add(credentials?.[2] ?? value, kindUnder(name, value) ?? 'token', 'place', name);
  else if (isRandomValue(value)) store.add(value, 'random', 'shape', name);
  addSpans(value, { type: 'named', name: '' }, store);
  if (value.includes('/')) addSegments(value, store);
}

/** What a path calls a piece that lets in whoever has it: "/reset/…", "/invitations/…". */
const LETS_IN =
  /\/(?:password[-_]?)?(?:reset|resets|verify|verification|confirm|confirmation|activate|activation|invites?|invitations?|magic(?:[-_]?link)?|tokens?|recover|recovery|unsubscribe|sessions?|login|signin|webhooks?|hooks?|bot)(?:[-_](?:password|email|token|link))?\/([^/?#\s]{16,})/gi;

function addSegments(url: string, store: SecretStore): void {
  for (const [, segment = ''] of url.matchAll(LETS_IN))
    if (looksRandom(segment)) store.add(segment, 'token', 'place', 'path');
}

function addCookie(pair: string, store: SecretStore): void {
  const equals = pair.indexOf('=');
  if (equals > 0) store.add(pair.slice(equals + 1).trim(), 'cookie', 'place', pair.slice(0, equals).trim());
}

function addBasic(encoded: string, store: SecretStore): void {
  const bytes = bytesFromBase64(encoded);
  const text = bytes === undefined ? undefined : textFromBytes(bytes);
  const colon = text?.indexOf(':') ?? -1;
  if (text === undefined || colon === -1) return;
  store.add(text.slice(colon + 1), 'password', 'place', 'authorization');
  store.add(text.slice(0, colon), 'person', 'place', 'authorization');
}

function addSpans(text: string, where: Parameters<typeof findSecrets>[1], store: SecretStore): void {
  for (const { name, value } of findSecrets(text, where, isUnderName)) {
    const kind = kindUnder(name, value) ?? 'token';
    store.add(value, kind, 'place', name);
    addClaims(value, store);
  }
}

/** What stands in a token's claims stands elsewhere, too: whom it is of. */
function addClaims(value: string, store: SecretStore): void {
  const [, claims, signature, ...more] = value.split('.');
  if (claims === undefined || signature === undefined || more.length > 0) return;
  const bytes = bytesFromBase64(claims);
  const text = bytes === undefined ? undefined : textFromBytes(bytes);
  if (text === undefined || !text.startsWith('{')) return;
  for (const { name, value: own } of findSecrets(text, { type: 'text' }, isUnderName))
    store.add(own, kindUnder(name, own) ?? 'token', 'place', name);
  for (const { kind, value: own } of findShapes(text)) store.add(own, kind, 'shape');
}

function addParts(text: string, store: SecretStore): void {
  if (!text.includes('form-data')) return;
  for (const { groups: { name = '', value = '' } = {} } of text.matchAll(FORM_FIELD)) findUnder(name, value, store);
}
