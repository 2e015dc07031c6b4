import { findHeader, type NameValue } from '../model';
import { asText, isObject, type Json, member } from './shape';

/** Recorders' own words for a header's name and value. */
const NAMES = ['name', 'Name', 'key', 'field'] as const;
const VALUES = ['value', 'Value', 'val'] as const;

/**
 * Reads a list of names and values: as HAR writes it, an object for each; or as some recorders do, one object with the names as
 * its members, pairs, lines "name: value", or all lines as one text. What is no such thing is left out. Notes where it was
 * not HAR's form.
 * @param what the list's name in notes
 */
export function readNameValues(value: Json | undefined, what: string, notes: string[]): NameValue[] {
  const pairs: NameValue[] = [];
  let isOdd = false;
  const add = (name: string, content: Json | undefined): void => {
    for (const one of Array.isArray(content) ? (content as Json[]) : [content])
      pairs.push({ name, value: textOf(one) });
    if (typeof content === 'object' && content !== null) isOdd = true;
  };
  if (Array.isArray(value)) {
    for (const item of value as Json[]) {
      const name = asText(member(item, 'name'));
      if (name !== undefined) add(name, member(item, 'value'));
      else isOdd = readItem(item, add) || isOdd;
    }
  } else if (isObject(value)) {
    isOdd = true;
    for (const name of Object.keys(value)) add(name, member(value, name));
  } else if (typeof value === 'string' && value !== '') {
    isOdd = true;
    for (const line of value.split(/\r?\n/)) readItem(line, add);
  }
  if (isOdd) notes.push(`its ${what} were not in HAR's form and were read all the same`);
  return pairs;
}

/** Reads an item in another form; false where it is nothing at all. */
function readItem(item: Json, add: (name: string, content: Json | undefined) => void): boolean {
  if (Array.isArray(item)) {
    const [name, content] = item as Json[];
    if (typeof name === 'string') add(name, content);
    return true;
  }
  if (typeof item === 'string') {
    const colon = item.indexOf(':', 1);
    if (colon !== -1) add(item.slice(0, colon), item.slice(colon + 1).trim());
    return item !== '';
  }
  const name = NAMES.map((key) => asText(member(item, key))).find((one) => one !== undefined);
  if (name !== undefined) {
    const key = VALUES.find((one) => member(item, one) !== undefined);
    add(name, key === undefined ? undefined : member(item, key));
  }
  return isObject(item) && Object.keys(item).length > 0;
}

const textOf = (value: Json | undefined): string => {
  if (value === undefined || value === null) return '';
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
};

/** A comma behind which another cookie begins: a name and an equals sign, which no date has. */
const BETWEEN_COOKIES = /,\s*(?=[^\s;,="]+=)/;

/**
 * Takes Set-Cookie headers apart that a recorder joined, by line feeds or by commas (RFC 9110 5.3 forbids both). A comma may
 * also stand in a value: it parts cookies where attributes stand before it, or where HAR's list of cookies has as many.
 * @param cookieCount how many cookies the recorder lists
 */
export function splitSetCookies(headers: NameValue[], cookieCount: number, notes: string[]): NameValue[] {
  if (findHeader(headers, 'set-cookie') === undefined) return headers;
  let isJoined = false;
  const split = headers.flatMap((header) => {
    if (header.name.toLowerCase() !== 'set-cookie') return [header];
    const lines = header.value.split('\n').flatMap((line) => splitByCommas(line, cookieCount));
    if (lines.length < 2) return [header];
    isJoined = true;
    return lines.map((value) => ({ name: header.name, value }));
  });
  if (isJoined) notes.push('several Set-Cookie headers were joined in one');
  return isJoined ? split : headers;
}

function splitByCommas(line: string, cookieCount: number): string[] {
  const parts = line.split(BETWEEN_COOKIES);
  if (parts.length < 2) return [line];
  const haveAttributes = parts.slice(0, -1).every((part) => /;\s*[A-Za-z-]+(?:\s*=|\s*;|\s*$)/.test(part));
  return haveAttributes || parts.length === cookieCount ? parts : [line];
}
