// The one finder of secrets: by the name that they stand under, and by their shape. What converts and what redacts both use it.
import { formDecoded, percentDecoded } from '../http';
import { addAssigned, addColumns, addFields, addPrivateKeys } from './assigned';
import { bytesFromBase64, textFromBytes } from './bytes';
import { isSecretName, isSecretValue, looksRandom } from './secret-names';

/** A secret in a text: where it stands, what it is called, and what it says once the text's encoding is undone. */
export interface SecretSpan {
  /** In UTF-16 units, half-open. */
  readonly start: number;
  readonly end: number;
  /** The name that it stands under, or that of its kind. */
  readonly name: string;
  readonly value: string;
}

/** What kind of text secrets are looked for in. */
export type SecretText =
  /** A URL, or text that may contain some: userinfo and parameters. */
  | { readonly type: 'url' }
  /** application/x-www-form-urlencoded. */
  | { readonly type: 'form' }
  /** JSON, GraphQL in it, XML and other text. */
  | { readonly type: 'text' }
  /** The value of a header, a cookie, or a field of a form, which has a name. */
  | { readonly type: 'named'; readonly name: string };

// Payloads are of any size and by anyone: each of these looks at a character a bounded number of times.

/** A JSON Web Token; the group ends with its beginning, and is taken whole so that no later one in the same word is tried. */
const JWT =
  /(?<![A-Za-z0-9_-])(?=([A-Za-z0-9_-]*?(?<![A-Za-z0-9_])eyJ))\1[A-Za-z0-9_-]{6,}\.[A-Za-z0-9_-]{6,}\.[A-Za-z0-9_-]*/g;
/** What stands behind a scheme of authorisation. */
const BEHIND_SCHEME = /(?<=\b(?:Bearer|Token)[ +]|\bBearer%20)[A-Za-z0-9._~+/-]{8,}=*/g;

const SCHEME = /^(?:Bearer|Basic|Token|Digest|Negotiate|DPoP)\s+/i;
/** Headers whose whole value is a credential. */
const CREDENTIAL_HEADER = /^(?:cookie|authorization|proxy-authorization)$/i;

/**
 * The secrets that stand in a text, in order; none overlaps another.
 * @param isSecret whether what stands under a name is one
 */
export function findSecrets(
  text: string,
  where: SecretText,
  isSecret: (name: string, value: string) => boolean = isSecretValue,
): SecretSpan[] {
  const found: SecretSpan[] = [];
  const add = (start: number, raw: string, name: string, value = raw): void => {
    if (raw !== '') found.push({ start, end: start + raw.length, name, value });
  };
  if (where.type === 'named' && (CREDENTIAL_HEADER.test(where.name) || isSecret(where.name, text))) {
    const scheme = SCHEME.exec(text)?.[0] ?? '';
    add(scheme.length, text.slice(scheme.length), where.name);
  }
  if (where.type === 'url' || where.type === 'named') addUserinfo(text, add);
  addPairs(
    text,
    where.type === 'form' ? /(^|&)([^=&]+)=([^&]*)/g : /([?&#;])([^?=&#;\s"'<>]+)=([^&#;\s"'<>]*)/g,
    isSecret,
    where.type === 'text'
      ? (start, raw, name, value) => isCode(text, start, raw, name) || add(start, raw, name, value)
      : add,
  );
  if (where.type === 'text' || where.type === 'named') {
    addMembers(text, isSecret, add);
    addMarkedUp(text, isSecret, add);
  }
  if (where.type === 'text') {
    addAssigned(text, add);
    if (text.includes('</') || text.includes('/>')) addFields(text, isSecret, add);
    addPrivateKeys(text, add);
    addColumns(text, isSecret, add);
    addBasic(text, add);
  }
  // Most texts are long and have none: what every match has is found much sooner than that there is no match.
  if (text.includes('eyJ')) {
    for (const match of text.matchAll(JWT)) {
      const before = (match[1]?.length ?? 0) - 'eyJ'.length;
      add(match.index + before, match[0].slice(before), 'token');
    }
  }
  if (text.includes('Bearer') || text.includes('Token'))
    for (const match of text.matchAll(BEHIND_SCHEME)) add(match.index, match[0], 'token');
  return withoutOverlaps(found);
}

/** Signs of calls and blocks, which scripts have, and parameters of addresses do not. */
const CALL = /[(){}|!]/;
/** A member of something, as scripts name it; elsewhere somebody may be called so. */
const MEMBER = /^[A-Za-z_$][\w$]*(?:\.[A-Za-z_$][\w$]*)+$/;

/** Whether a pair is a script that gives something a value: behind a semicolon, or behind "and", which is two of the signs. */
function isCode(text: string, start: number, raw: string, name: string): boolean {
  if (CALL.test(name) || CALL.test(raw)) return true;
  const before = start - name.length - 2;
  return MEMBER.test(raw) && (text[before] === ';' || (text[before] === '&' && text[before - 1] === '&'));
}

/** User and password as HTTP writes them (RFC 7617 2), in a text: what looks so is it where it decodes to a pair. */
function addBasic(text: string, add: Add): void {
  if (!text.includes('Basic ')) return;
  for (const { index, 1: encoded = '' } of text.matchAll(/\bBasic ([A-Za-z0-9+/]{8,1000}={0,2})(?![A-Za-z0-9+/=])/g)) {
    const bytes = bytesFromBase64(encoded);
    const pair = bytes === undefined ? undefined : textFromBytes(bytes);
    if (pair !== undefined && /^[\x20-\x7e]+:[\x20-\x7e]+$/.test(pair))
      add(index + 'Basic '.length, encoded, 'authorization');
  }
}

type IsSecret = (name: string, value: string) => boolean;
type Add = (start: number, raw: string, name: string, value?: string) => unknown;

function addUserinfo(text: string, add: Add): void {
  if (!text.includes('://')) return;
  for (const match of text.matchAll(/\b[a-z][a-z0-9+.-]{0,30}:\/\/([^\s/?#@:"']*):([^\s/?#@"']+)@/gi)) {
    const [whole, user = '', password = ''] = match;
    add(match.index + whole.length - password.length - 1, password, 'password', percentDecoded(password));
    if (looksRandom(user)) add(match.index + whole.indexOf('://') + 3, user, 'user', percentDecoded(user));
  }
}

function addPairs(text: string, pattern: RegExp, isSecret: IsSecret, add: Add): void {
  for (const match of text.matchAll(pattern)) {
    const [whole, , rawName = '', raw = ''] = match;
    const [name, value] = [formDecoded(rawName), formDecoded(raw)];
    if (isSecret(name, value)) add(match.index + whole.length - raw.length, raw, name, value);
  }
}

/** Where the quotes of a text stand that no backslash takes away, in order. */
function quotesOf(text: string): number[] {
  const quotes: number[] = [];
  for (let at = text.indexOf('"'); at !== -1; at = text.indexOf('"', at + 1)) {
    let before = at;
    while (text[before - 1] === '\\') before--;
    if ((at - before) % 2 === 0) quotes.push(at);
  }
  return quotes;
}

const AFTER_NAME = /\s*:\s*(?:(-?\d[\d.eE+-]*)|(\[))?/y;
const BETWEEN_ITEMS = /\s*,\s*/y;

/**
 * Members of JSON with a string, a number, or a list of strings, also in text that is JSON only in part or is cut off: any
 * quote may be the one before a name.
 */
function addMembers(text: string, isSecret: IsSecret, add: Add): void {
  const quotes = quotesOf(text);
  const skip = (pattern: RegExp, from: number): RegExpExecArray | null => {
    pattern.lastIndex = from;
    return pattern.exec(text);
  };
  const variables = graphqlVariables(text);
  let named = '';
  const addValue = (name: string, start: number, end: number): void => {
    const raw = text.slice(start, end);
    const value = unescaped(raw);
    // A list of pairs names in one member what it holds in the next.
    const called = VALUE_NAME.test(name) && named !== '' ? named : (variables.get(name) ?? name);
    if (isSecret(called, value)) add(start, raw, called, value);
    named = NAME_NAME.test(name) ? value : '';
  };
  let nth = 0;
  while (nth + 1 < quotes.length) {
    const [opening = 0, closing = 0] = [quotes[nth], quotes[nth + 1]];
    const behind = skip(AFTER_NAME, closing + 1);
    if (behind === null) {
      nth++;
      continue;
    }
    const name = unescaped(text.slice(opening + 1, closing));
    const [whole, number, bracket] = behind;
    let at = closing + 1 + whole.length;
    if (bracket !== undefined) at += skip(/\s*/y, at)?.[0].length ?? 0;
    if (number !== undefined) addValue(name, at - number.length, at);
    nth += 2;
    while (quotes[nth] === at) {
      const end = quotes[nth + 1] ?? text.length;
      addValue(name, at + 1, end);
      nth += 2;
      const next = bracket === undefined ? null : skip(BETWEEN_ITEMS, end + 1);
      if (next === null) break;
      at = end + 1 + next[0].length;
    }
  }
}

const NAME_NAME = /^(?:name|key|field|header|id)$/i;
const VALUE_NAME = /^(?:value|val|content)$/i;

/** What variables of a GraphQL query are given to, by their names: in `login(password: $p)` p is a password. */
function graphqlVariables(text: string): ReadonlyMap<string, string> {
  if (!text.includes('$') || !text.includes('"variables"')) return NO_NAMES;
  const given = [...text.matchAll(/:\s{0,4}\$(\w{1,60})/g)];
  return new Map(
    given.flatMap(({ 1: variable = '', index }) => {
      const name = /\w{1,60}\s{0,4}$/.exec(text.slice(Math.max(0, index - 64), index))?.[0].trim() ?? '';
      return isSecretName(name) ? [[variable, name] as const] : [];
    }),
  );
}
const NO_NAMES: ReadonlyMap<string, string> = new Map();

/** An argument of GraphQL, or a member of JSON, that stands in a string of JSON: its quotes have a backslash each. */
const ARGUMENT = /\b([A-Za-z_][\w-]{0,100})(?:\\")?\s*:\s*\\"((?:[^"\\]|\\{4}|\\{3}"|\\[^"])*)\\"/dg;
/** An element of XML. */
const ELEMENT = /<([A-Za-z_][\w.:-]{0,100})(?:\s[^<>]*)?>([^<>]+)<\/\1>/dg;

/** Each with what all of its matches have. */
const MARKED_UP = [
  ['\\"', ARGUMENT],
  ['</', ELEMENT],
] as const;

function addMarkedUp(text: string, isSecret: IsSecret, add: Add): void {
  for (const [mark, pattern] of MARKED_UP) {
    if (!text.includes(mark)) continue;
    for (const match of text.matchAll(pattern)) {
      const [, name = '', value = ''] = match;
      const start = match.indices?.[2]?.[0];
      if (start !== undefined && isSecret(name, value)) add(start, value, name);
    }
  }
}

/** JSON's escapes undone; the text itself where it has none or is none. */
function unescaped(raw: string): string {
  if (!raw.includes('\\')) return raw;
  try {
    return JSON.parse(`"${raw}"`) as string;
  } catch {
    return raw;
  }
}

/** Of spans that overlap the one that begins first, and of those the longest. */
function withoutOverlaps(spans: readonly SecretSpan[]): SecretSpan[] {
  const kept: SecretSpan[] = [];
  for (const span of [...spans].sort((one, other) => one.start - other.start || other.end - one.end)) {
    if (span.start >= (kept.at(-1)?.end ?? 0)) kept.push(span);
  }
  return kept;
}
