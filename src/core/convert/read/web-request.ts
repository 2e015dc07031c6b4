import { bytesFromText } from '../../content';
import { findHeader, type NameValue } from '../../model';
import { payloadOfBytes } from '../draft';
import { ESCAPED } from './powershell';
import { addLacking, type ReadRequest } from './request';

// PowerShell's own Invoke-WebRequest and Invoke-RestMethod, as people write them and as browsers copy them.

const CALL = /\b(?:Invoke-(?:WebRequest|RestMethod)|iwr|irm)\b/gi;

type Value = string | readonly NameValue[];

/** Requests of a script's calls, with what it gave to the session that they name. */
export function readWebRequests(script: string): ReadRequest[] {
  const text = script.replaceAll('\r\n', '\n').replace(/`[ \t]*\n/g, ' ');
  const variables = new Map<string, Value>();
  for (const match of text.matchAll(/^\s*\$(\w+)\s*=\s*/gm)) {
    const value = readValue(text, match.index + match[0].length, variables);
    if (value !== undefined) variables.set((match[1] ?? '').toLowerCase(), value.value);
  }
  return [...text.matchAll(CALL)].map((match) => requestOf(text, match.index + match[0].length, variables));
}

interface Read {
  readonly value: Value;
  readonly end: number;
}

/** One call, its parameters in any order. Long because each parameter has its part in the request. */
function requestOf(text: string, from: number, variables: ReadonlyMap<string, Value>): ReadRequest {
  const given = new Map<string, Value>();
  const notes: string[] = [];
  let at = from;
  for (;;) {
    at += /^[ \t]*/.exec(text.slice(at))?.[0].length ?? 0;
    const rest = text.slice(at);
    if (rest === '' || /^[\n;|)}]/.test(rest)) break;
    const name = /^-(\w+):?/.exec(rest);
    if (name !== null) {
      at += name[0].length;
      const blank = /^[ \t]*/.exec(text.slice(at))?.[0].length ?? 0;
      const isSwitch = /^(?:$|[\n;|)}]|-[A-Za-z])/.test(text.slice(at + blank));
      const value = isSwitch ? undefined : readValue(text, at + blank, variables);
      given.set((name[1] ?? '').toLowerCase(), value?.value ?? '');
      if (value !== undefined) at = value.end;
      continue;
    }
    const value = readValue(text, at, variables);
    if (value === undefined) {
      notes.push(`"${rest.slice(0, 40).split('\n')[0]}" cannot be read, and is left out.`);
      break;
    }
    if (!given.has('uri')) given.set('uri', value.value);
    at = value.end;
  }
  const text1 = (name: string): string | undefined => {
    const value = given.get(name);
    return typeof value === 'string' && value !== '' ? value : undefined;
  };
  const headers = headersOf(given.get('headers')).filter(
    ({ name }) => !/^(?:authority|method|path|scheme)$/i.test(name) && !name.startsWith(':'),
  );
  const add = (name: string, value: string | undefined): void => addLacking(headers, name, value);
  const session = text1('websession') ?? text1('sessionvariable');
  if (session !== undefined) for (const header of sessionHeaders(text)) add(header.name, header.value);
  add('User-Agent', text1('useragent'));
  const body = given.get('body');
  const isForm = body !== undefined && typeof body !== 'string';
  const payloadText = isForm
    ? new URLSearchParams(body.map(({ name, value }): [string, string] => [name, value])).toString()
    : body;
  const method = text1('custommethod') ?? text1('method')?.toUpperCase() ?? 'GET';
  add(
    'Content-Type',
    text1('contenttype') ??
      (payloadText === undefined || method === 'GET' ? undefined : 'application/x-www-form-urlencoded'),
  );
  const contentType = findHeader(headers, 'content-type');
  const file = text1('infile');
  const url = text1('uri') ?? '';
  const asQuery = isForm && method === 'GET';
  return {
    method,
    url: asQuery ? `${url}${url.includes('?') ? '&' : '?'}${payloadText}` : url,
    headers,
    payload:
      file !== undefined
        ? { type: 'file', path: file }
        : payloadText === undefined || payloadText === '' || asQuery
          ? { type: 'none' }
          : payloadOfBytes(bytesFromText(payloadText), contentType),
    wantsCompressed: true,
    notes,
  };
}

const headersOf = (value: Value | undefined): NameValue[] =>
  value === undefined || typeof value === 'string' ? [] : [...value];

/** What a script gave the session that its calls share: the user agent and the cookies. */
function sessionHeaders(text: string): NameValue[] {
  const agent = /\.UserAgent\s*=\s*"((?:[^"`]|`[\s\S])*)"/.exec(text)?.[1];
  const cookies = [
    ...text.matchAll(/System\.Net\.Cookie\(\s*"((?:[^"`]|`[\s\S])*)"\s*,\s*"((?:[^"`]|`[\s\S])*)"/g),
  ].map(([, name = '', value = '']) => `${unescaped(name)}=${unescaped(value)}`);
  return [
    ...(agent === undefined ? [] : [{ name: 'User-Agent', value: unescaped(agent) }]),
    ...(cookies.length === 0 ? [] : [{ name: 'Cookie', value: cookies.join('; ') }]),
  ];
}

const unescaped = (text: string): string => text.replace(/`([\s\S])/g, (_, one: string) => ESCAPED[one] ?? one);

/** A value from here: a string of any kind, a table, a variable, a word; undefined where none can be read. */
function readValue(text: string, at: number, variables: ReadonlyMap<string, Value>): Read | undefined {
  const rest = text.slice(at);
  const here = /^@(['"])[ \t]*\n([\s\S]*?)\n\1@/.exec(rest);
  if (here !== null)
    return { value: here[1] === "'" ? (here[2] ?? '') : unescaped(here[2] ?? ''), end: at + here[0].length };
  if (/^@\{/.test(rest)) return readTable(text, at + 2, variables);
  const single = /^'((?:[^']|'')*)'/.exec(rest);
  if (single !== null) return { value: (single[1] ?? '').replaceAll("''", "'"), end: at + single[0].length };
  const double = /^"((?:[^"`]|`[\s\S]|"")*)"/.exec(rest);
  if (double !== null)
    return { value: filled(unescaped((double[1] ?? '').replaceAll('""', '"')), variables), end: at + double[0].length };
  const bytes = /^\(\[System\.Text\.Encoding\]::UTF8\.GetBytes\(/.exec(rest);
  if (bytes !== null) {
    const inner = readValue(text, at + bytes[0].length, variables);
    return inner === undefined
      ? undefined
      : { value: inner.value, end: inner.end + (/^\s*\)\s*\)/.exec(text.slice(inner.end))?.[0].length ?? 0) };
  }
  const variable = /^\$(\w+)/.exec(rest);
  if (variable !== null) {
    const name = variable[1] ?? '';
    return { value: variables.get(name.toLowerCase()) ?? `$${name}`, end: at + variable[0].length };
  }
  const word = /^[^\s;|(){}'"$@]+/.exec(rest);
  return word === null ? undefined : { value: word[0], end: at + word[0].length };
}

/** The variables in a string filled in as far as the script says what they are. */
const filled = (text: string, variables: ReadonlyMap<string, Value>): string =>
  text.replace(/\$(\w+)/g, (whole, name: string) => {
    const value = variables.get(name.toLowerCase());
    return typeof value === 'string' ? value : whole;
  });

function readTable(text: string, from: number, variables: ReadonlyMap<string, Value>): Read | undefined {
  const pairs: NameValue[] = [];
  let at = from;
  for (;;) {
    at += /^[\s;]*/.exec(text.slice(at))?.[0].length ?? 0;
    if (text[at] === '}') return { value: pairs, end: at + 1 };
    const name = readName(text, at);
    const equals = /^\s*=\s*/.exec(text.slice(name?.end ?? at))?.[0].length;
    const value =
      name === undefined || equals === undefined ? undefined : readValue(text, name.end + equals, variables);
    if (name === undefined || value === undefined) return undefined;
    if (typeof value.value === 'string') pairs.push({ name: name.value, value: value.value });
    at = value.end;
  }
}

function readName(text: string, at: number): { readonly value: string; readonly end: number } | undefined {
  const match = /^(?:"((?:[^"`]|`[\s\S])*)"|'((?:[^']|'')*)'|([\w-]+))/.exec(text.slice(at));
  return match === null
    ? undefined
    : { value: unescaped(match[1] ?? '') || (match[2] ?? match[3] ?? ''), end: at + match[0].length };
}
