import { bytesFromBase64, findSecrets, isSecretValue, textFromBytes } from '../content';
import type { Json } from '../har';
import { type EntryTools, mapEntry, type TextRole } from './entry';
import { isUnderName, kindUnder } from './names';
import { findShapes, isRandomValue } from './shapes';
import type { SecretStore } from './store';

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
      break;
    case 'content':
      if (text.length <= READ_CHARS) {
        addSpans(text, role.text, store);
        addParts(text, store);
      }
      break;
    case 'other':
      break;
    default:
      role satisfies never;
  }
  for (const { kind, value } of findShapes(text)) store.add(value, kind, 'shape');
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
    return;
  }
  if (name.startsWith(':')) {
    addSpans(value, { type: 'url' }, store);
    return;
  }
  if (NO_SECRETS.has(name)) return;
  if (isSecretValue(name, value))
    store.add(credentials?.[2] ?? value, kindUnder(name, value) ?? 'token', 'place', name);
  else if (isRandomValue(value)) store.add(value, 'random', 'shape', name);
  addSpans(value, { type: 'named', name: '' }, store);
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

/** A field of multipart/form-data (RFC 7578 4.2). */
const PART = /;\s*name="([^"\r\n]{1,200})"(?![^\r\n]*filename=)[^\r\n]*\r?\n(?:[^\r\n]+\r?\n)*\r?\n([^\r\n]{1,2000})/g;

function addParts(text: string, store: SecretStore): void {
  if (!text.includes('form-data')) return;
  for (const [, name = '', value = ''] of text.matchAll(PART)) findUnder(name, value, store);
}
