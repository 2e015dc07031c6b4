import { bytesFromBase64, bytesFromText, textFromBytes } from '../content';
import type { SecretKind } from './kinds';
import { base64Text } from './variants';

// What stands in place of a secret: stable, of its kind, and as long as it, so that sizes and who sends what where stay.

/**
 * How a kind is written: as a word with a number, or digit for digit. No word begins with a letter whose last bits, beside
 * those of a neighbour in base64, make a quotation mark or a backslash.
 */
const WORD: Record<SecretKind, string | undefined> = {
  token: 'token',
  password: 'password',
  cookie: 'cookie',
  key: 'key',
  card: undefined,
  iban: undefined,
  'national-id': undefined,
  person: 'person',
  email: 'person',
  phone: undefined,
  address: undefined,
  coordinates: undefined,
  random: 'value',
  own: 'word',
};

/** The placeholder for the nth secret of a kind, counted from 1. */
export function placeholderFor(kind: SecretKind, number: number, value: string): string {
  if (kind === 'email') return emailFor(number, value.length);
  const word = WORD[kind];
  const byDigits = word === undefined || /^-?\d+(?:\.\d+)?$/.test(value) ? digitsFor(number, value) : undefined;
  // A number of its own may be drawn, or have no digits at all.
  if (byDigits !== undefined && byDigits !== value) return byDigits;
  const written = jwtFor(number, value) ?? wordFor(word ?? 'value', number, value.length);
  return written === value ? wordFor('other', number, value.length) : written;
}

/** "token-3-xxxxxxxx", "t3xx" where that is too long; ends with an x wherever there is room. */
function wordFor(word: string, number: number, length: number): string {
  const long = `${word}-${number}-`;
  const begin = length > long.length ? long : `${word[0]}${number}`;
  return begin + 'x'.repeat(Math.max(0, length - begin.length));
}

const MAIL_HOST = '@redacted.example';

function emailFor(number: number, length: number): string {
  const user = `person-${number}`;
  return `${user}${'x'.repeat(Math.max(0, length - user.length - MAIL_HOST.length))}${MAIL_HOST}`;
}

/** The same signs, and for digits zeros that end with the number; a number begins with a 9, as JSON's begin with no 0. */
function digitsFor(number: number, value: string): string {
  const isNumber = /^-?[1-9]\d/.test(value);
  let rest = String(number);
  let written = '';
  for (const character of [...value].reverse()) {
    if (!/[0-9]/.test(character)) {
      written = (/^[a-f]$/i.test(character) && value.includes(':') ? '0' : character) + written;
      continue;
    }
    written = (rest.at(-1) ?? '0') + written;
    rest = rest.slice(0, -1);
  }
  return isNumber ? written.replace(/\d/, '9') : written;
}

/** Claims that say when, and what kind of token it is (RFC 7519 4.1): they tell why a request was refused, and who nobody. */
const KEPT_CLAIMS: ReadonlySet<string> = new Set(['iat', 'exp', 'nbf', 'auth_time', 'typ']);

/** A JWT with its header and its time claims; undefined for what is none. */
function jwtFor(number: number, value: string): string | undefined {
  const [header = '', claims = '', signature] = value.split('.');
  if (signature === undefined || value.split('.').length !== 3) return undefined;
  const read = readObject(claims);
  if (readObject(header) === undefined || read === undefined) return undefined;
  let count = 0;
  const masked = JSON.stringify(read, (name, own: unknown) => {
    if (name === '' || KEPT_CLAIMS.has(name) || typeof own === 'object') return own;
    count++;
    if (typeof own === 'string') return wordFor('claim', count, own.length);
    return typeof own === 'number' ? Number(digitsFor(count, String(Math.abs(Math.trunc(own))))) : own;
  });
  const payload = base64Text(bytesFromText(masked)).replaceAll('+', '-').replaceAll('/', '_');
  return `${header}.${payload}.${wordFor('token', number, signature.length)}`;
}

function readObject(encoded: string): object | undefined {
  const bytes = bytesFromBase64(encoded);
  const text = bytes === undefined ? undefined : textFromBytes(bytes);
  try {
    const value: unknown = JSON.parse(text ?? '');
    return typeof value === 'object' && value !== null ? value : undefined;
  } catch {
    return undefined;
  }
}

/** A placeholder made just so many bytes long, as it has to be inside base64, where what follows must not move. */
export const ofLength = (placeholder: string, bytes: number): string =>
  placeholder.length >= bytes ? placeholder.slice(0, bytes) : placeholder + 'x'.repeat(bytes - placeholder.length);
