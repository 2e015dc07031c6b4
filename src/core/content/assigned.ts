// Secrets in scripts, lines of settings and markup: what something that is called like one is given. Code says such names of
// much else, so that a value counts only where it looks drawn; what a form holds is what its name says.
import { unescapeMarkup } from '../wording';
import { isSecretName, looksRandom } from './secret-names';
import { tableRows } from './table';

type IsSecret = (name: string, value: string) => boolean;
type Add = (start: number, raw: string, name: string, value?: string) => unknown;

/** What names of secrets contain: whatever else a text says is passed over at once. */
const STEM =
  /token|secret|passw|pwd|passphrase|passcode|session|sessid|auth|jwt|csrf|xsrf|[_-]?key|credential|signature|(?<![a-z])(?:sid|sig|otp)(?![a-z])/gi;
/** The rest of the name, and the sign that gives it a value. A name in quotes may be the first of a call's arguments. */
const GIVEN = /[\w$-]{0,60}(?:["']\s{0,4}[:,=]|["']?\]\s{0,4}=|\s{0,4}[:=])\s{0,8}(?:(["'`])|(?=[A-Za-z0-9_+/-]))/y;
/** A value without quotes ends with its line, or its words. */
const BARE = /[A-Za-z0-9_+/=.~-]{6,4096}(?=$|[\s"'`,;<&\\])/y;
const NAME_CHARS = 80;
const IN_NAME = /[\w$-]/;
const MOST_VALUE_CHARS = 4096;

/** Adds what is given to names in scripts (`token = "…"`, `setItem("token", "…")`) and in lines (`API_KEY=…`, `token: …`). */
export function addAssigned(text: string, add: Add): void {
  STEM.lastIndex = 0;
  for (let stem = STEM.exec(text); stem !== null; stem = STEM.exec(text)) {
    const from = stem.index + stem[0].length;
    GIVEN.lastIndex = from;
    const given = GIVEN.exec(text);
    if (given === null) continue;
    const start = from + given[0].length;
    const end = given[1] === undefined ? endOfBare(text, start) : endOfQuoted(text, start, given[1]);
    if (end === undefined) continue;
    const value = text.slice(start, end);
    const name = nameAround(text, stem.index, from);
    const isValue = given[1] !== undefined || !isCode(value);
    if (isValue && isSecretName(name) && isDrawn(name, value)) add(start, value, name);
    STEM.lastIndex = Math.max(from, start);
  }
}

/** A number, a member of something, or a name that programmers make up: where it has digits they stand together. */
function isCode(value: string): boolean {
  if (/^0x|^[\d.]+$/i.test(value) || /^[A-Za-z_$][\w$]*(?:\.[A-Za-z_$][\w$]*)+$/.test(value)) return true;
  return /^[A-Za-z_$]+\d+[A-Za-z_$]*$/.test(value);
}

function endOfBare(text: string, start: number): number | undefined {
  BARE.lastIndex = start;
  return BARE.test(text) ? BARE.lastIndex : undefined;
}

function endOfQuoted(text: string, start: number, quote: string): number | undefined {
  const end = text.indexOf(quote, start);
  return end === -1 || end - start > MOST_VALUE_CHARS ? undefined : end;
}

function nameAround(text: string, start: number, end: number): string {
  let [begin, behind] = [start, end];
  while (begin > 0 && end - begin < NAME_CHARS && IN_NAME.test(text[begin - 1] ?? '')) begin--;
  while (behind - start < NAME_CHARS && IN_NAME.test(text[behind] ?? '')) behind++;
  return text.slice(begin, behind);
}

const PASSWORD = /passw|pwd|passphrase|passcode/i;
const LEAST_PASSWORD = 6;
/** So long a piece of letters and digits mixed is no word with a number. */
const LEAST_MIXED = 8;

/** Whether a value that code or a line gives to something was made up for it, and is no word, path, or name of something else. */
function isDrawn(name: string, value: string): boolean {
  if (/^\.{0,2}\/|\/\//.test(value)) return false;
  const isMixed = (piece: string): boolean => /[0-9]/.test(piece) && /[A-Za-z]/.test(piece);
  if (looksRandom(value)) return value.split(/[._/-]/).some((piece) => piece.length >= LEAST_MIXED && isMixed(piece));
  return (
    PASSWORD.test(name) && value.length >= LEAST_PASSWORD && isMixed(value) && !/[\s(){}[\]<>$|]|\.\w+\./.test(value)
  );
}

/** A field of a form, or what a page says of itself: the tag, and in it its attributes (WHATWG HTML 4.10.5, 4.2.5). */
const FIELD = /<(?:input|meta|param)\b((?:[^<>"']|"[^"<]{0,4096}"|'[^'<]{0,4096}'){1,2000})>/gi;
const ATTRIBUTE = /([\w-]{1,40})\s{0,4}=\s{0,4}(?:"([^"]*)"|'([^']*)'|([^\s"'<>]+))/dg;
/** What somebody presses or ticks holds no secret. */
const PRESSED = /^(?:submit|button|reset|image|checkbox|radio)$/i;

/** Adds what the fields of forms hold in a page, and what it says of itself. */
export function addFields(text: string, isSecret: IsSecret, add: Add): void {
  for (const { 1: inside = '', index, 0: tag } of text.matchAll(FIELD)) {
    const before = index + tag.length - 1 - inside.length;
    const said = new Map<string, { readonly value: string; readonly start: number }>();
    for (const { 1: name = '', 2: double, 3: single, 4: bare, indices } of inside.matchAll(ATTRIBUTE)) {
      const start = (indices?.[2] ?? indices?.[3] ?? indices?.[4])?.[0];
      if (start !== undefined)
        said.set(name.toLowerCase(), { value: double ?? single ?? bare ?? '', start: before + start });
    }
    const held = said.get('value') ?? said.get('content');
    const type = said.get('type')?.value ?? '';
    const name = type.toLowerCase() === 'password' ? 'password' : (said.get('name')?.value ?? '');
    if (held === undefined || PRESSED.test(type)) continue;
    const value = unescapeMarkup(held.value);
    if (isSecret(name, value)) add(held.start, held.value, name, value);
  }
}

/** Where a private key begins in the form of RFC 7468, and what may stand around it: lines broken, or written as in a string. */
const KEY_BEGINS = /-----BEGIN [A-Z ]{0,30}PRIVATE KEY-----(?:\s|\\[nr])*/g;
const MOST_KEY_CHARS = 20_000;
/** Base64, its lines broken in one way or the other, and headers of older forms; code that puts a key together has quotes. */
const IN_KEY = /^[A-Za-z0-9+/=\s\\:,-]{16,}$/;

/** How long the break is that ends before a place; 0 where there is none. */
function breakBefore(text: string, at: number): number {
  if (/\s/.test(text[at - 1] ?? '')) return 1;
  return /\\[nr]/.test(text.slice(Math.max(0, at - 2), at)) ? 2 : 0;
}

/** Adds private keys, whatever they are called. */
export function addPrivateKeys(text: string, add: Add): void {
  if (!text.includes('PRIVATE KEY-----')) return;
  for (const { 0: begin, index } of text.matchAll(KEY_BEGINS)) {
    const start = index + begin.length;
    let end = text.indexOf('-----', start);
    if (end === -1 || end - start > MOST_KEY_CHARS || !text.startsWith('-----END ', end)) continue;
    for (let breaks = 1; breaks > 0 && end > start; end -= breaks) breaks = breakBefore(text, end);
    const key = text.slice(start, end);
    if (IN_KEY.test(key)) add(start, key, 'private key');
  }
}

/** No head of a table is longer. */
const MOST_HEAD_CHARS = 2000;
const COLUMN_NAME = /^[\p{L}\p{N}_][\p{L}\p{N}_ .-]{0,60}$/u;

/** Adds what stands in a column of a table whose head says that it is a secret. */
export function addColumns(text: string, isSecret: IsSecret, add: Add): void {
  const end = text.search(/[\r\n]/);
  if (end <= 0 || end > MOST_HEAD_CHARS) return;
  let names: readonly string[] | undefined;
  for (const row of tableRows(text)) {
    if (names === undefined) {
      names = row.map((cell) => cell.text.trim());
      if (names.length < 2 || !names.every((name) => COLUMN_NAME.test(name))) return;
    } else
      for (const [column, { raw, at }] of row.entries()) {
        const name = names[column];
        // With its quotes doubled, as it stands: no other way of writing it has them so.
        if (name !== undefined && isSecret(name, raw)) add(at, raw, name);
      }
  }
}
