import { bytesFromText } from '../../content';
import type { NameValue } from '../../model';
import { type DraftPart, type DraftPayload, FALLBACK_BOUNDARY, payloadOfBytes } from '../draft';
import { encodedAround, type KnownValues } from '../value';
import type { Command, Surroundings } from './command';
import { lastPartOf, withoutDots, withScheme } from './curl-address';
import { type HttpieOptions, readHttpieOptions } from './httpie-options';
import { NestedItems } from './nested-items';
import { typeByPython } from './part-types';
import { pythonJson, pythonString, readAsPython } from './python-json';
import { addLacking, basicAround, plusEncoded, type ReadRequest } from './request';

/** What parts an item's name from its value, the longer first. */
const SEPARATOR = /^((?:\\[\s\S]|[^\\])*?)(:=@|:=|==@|==|=@|:@|@|=|:|;)([\s\S]*)$/;

/** A field: its text, or JSON that is written. */
type Field = { readonly name: string } & ({ readonly text: string } | { readonly json: string });

interface Items {
  readonly headers: NameValue[];
  /** Headers that are taken away, in lower case. */
  readonly removed: Set<string>;
  readonly query: { readonly name: string; readonly text: string }[];
  /** Fields and files, in their order. */
  readonly fields: (Field | DraftPart)[];
  /** A file that is the payload. */
  file: string | undefined;
  /** An item of the payload is there, whether or not its value is. */
  hasData: boolean;
  readonly notes: string[];
  readonly around: Surroundings;
}

/** A request from the words of the http command: method, URL and items (its manual, Request Items). */
export function readHttpie({ words, input }: Command, around: Surroundings): ReadRequest[] {
  const options = readHttpieOptions(words.slice(1));
  const { rest, notes } = options;
  const isMethod = /^[A-Za-z]+$/.test(rest[0] ?? '') && rest.length > 1 && !/^localhost$/i.test(rest[0] ?? '');
  const [url = '', ...given] = isMethod ? rest.slice(1) : rest;
  if (url === '') return [];
  const items: Items = {
    headers: [],
    removed: new Set(),
    query: [],
    fields: [],
    file: undefined,
    hasData: false,
    notes,
    around,
  };
  for (const item of given) addItem(item, items);
  const scheme = /^https/.test(lastPartOf(words[0] ?? '')) ? 'https' : (options.scheme ?? 'http');
  const { address, user } = addressOf(url, scheme, queryOf(items.query), options.keepsDots, around.values);
  const { isChallenged } = options;
  const auth = options.auth ?? (options.isBearer ? undefined : user);
  // Credentials take the place of a header.
  const own = auth === undefined || isChallenged ? [] : [authorizationOf(auth, options, around)];
  const headers = [...items.headers.filter(({ name }) => own.length === 0 || !/^authorization$/i.test(name)), ...own];
  const { payload, implied } = payloadOf(items, options, input);
  if (!items.removed.has('content-type')) addLacking(headers, 'Content-Type', implied);
  const hasPayload = payload.type !== 'none' || items.hasData || options.raw !== undefined;
  return [
    {
      method: isMethod ? (rest[0] ?? '').toUpperCase() : hasPayload ? 'POST' : 'GET',
      url: address,
      headers,
      payload,
      wantsCompressed: true,
      notes,
    },
  ];
}

function authorizationOf(auth: string, { isBearer, notes }: HttpieOptions, around: Surroundings): NameValue {
  if (isBearer) return { name: 'Authorization', value: `Bearer ${auth}` };
  if (!auth.includes(':')) notes.push(`The password of ${auth} would be asked for; it is empty here.`);
  return { name: 'Authorization', value: basicAround(auth.includes(':') ? auth : `${auth}:`, around, notes) };
}

/** The address that is asked for, and what stood before its host: of user and password nothing is decoded. */
function addressOf(
  url: string,
  scheme: string,
  query: string,
  keepsDots: boolean,
  values: KnownValues,
): { readonly address: string; readonly user: string | undefined } {
  const short = /^:(?!:|\/\/)(\d*)([\s\S]*)$/.exec(url);
  const place = short === null ? url.replace(/^:\/\//, '') : `localhost${short[1] ? `:${short[1]}` : ''}${short[2]}`;
  const whole = withScheme(place, scheme, values);
  const [, start = '', user, rest = ''] =
    /^([a-z][a-z0-9+.-]*:\/\/|)(?:([^/?#]*)@)?([\s\S]*)$/i.exec(whole.split('#', 1)[0] ?? '') ?? [];
  const [, host = '', path = '', search = ''] = /^([^/?]*)([^?]*)([\s\S]*)$/.exec(rest) ?? [];
  const encoded = asRequested(path, values) + asRequested(search, values);
  const plain = start + host + (keepsDots ? encoded : withoutDots(encoded));
  return {
    address: query === '' ? plain : `${plain}${plain.includes('?') ? '&' : '?'}${query}`,
    user: user === undefined || user.includes(':') ? user : `${user}:`,
  };
}

/** Codes in capitals; percent signs as text where one of them begins no code. */
function capitals(part: string): string {
  const written = part.replace(/%[0-9a-f]{2}/gi, (code) => code.toUpperCase());
  return /%(?![0-9A-F]{2})/.test(written) ? written.replaceAll('%', '%25') : written;
}

/**
 * A path or a query as Python's requests sends it: what it may not hold is encoded, what needs no code is decoded; where one
 * code is none, all of them are taken for text.
 */
const asRequested = (part: string, values: KnownValues): string =>
  encodedAround(
    part,
    (piece) =>
      capitals(piece.toWellFormed())
        .replace(/[^\w.~!$%&'()*+,/:;=?@-]+/gu, encodeURIComponent)
        .replace(/%[0-9A-F]{2}/g, (code) => {
          const character = String.fromCharCode(Number.parseInt(code.slice(1), 16));
          return /[A-Za-z0-9._~-]/.test(character) ? character : code;
        }),
    values,
  );

function addItem(item: string, to: Items): void {
  const { files, values } = to.around;
  const [, rawName = '', separator = '', rawValue = ''] = SEPARATOR.exec(item) ?? [];
  const [name, plain] = [rawName, rawValue].map((text) =>
    text.replace(/\\([\s\S])/g, (pair, next: string) => (/[:;=@]/.test(next) ? next : pair)),
  ) as [string, string];
  const isData = /^(?::=@?|=@?|@)$/.test(separator);
  if (isData) to.hasData = true;
  // Of a file's own end of line nothing is sent with a header or a parameter.
  const held = separator.length > 1 && separator.endsWith('@') ? textOf(plain, files) : plain;
  if (held === undefined) {
    to.notes.push(`The value of ${name} would be read from the file "${plain}", which is not here.`);
    return;
  }
  const value = separator === ':@' || separator === '==@' ? held.trimEnd() : held;
  switch (separator) {
    case ':':
    case ':@':
      // A header with nothing behind its colon is taken away.
      if (value === '') to.removed.add(name.toLowerCase());
      else to.headers.push({ name, value: value.trim() });
      return;
    case ';':
      to.headers.push({ name, value: '' });
      return;
    case '==':
    case '==@':
      to.query.push({ name: plusEncoded(name, values), text: plusEncoded(value, values) });
      return;
    case '=':
    case '=@':
      to.fields.push({ name, text: value });
      return;
    case ':=':
    case ':=@': {
      const json = readAsPython(value, values);
      if (json === undefined) to.notes.push(`${name} is not JSON, and is left out.`);
      else to.fields.push({ name, json: pythonJson(json, values) });
      return;
    }
    case '@':
      addFile(name, value, to);
      return;
    default:
      to.notes.push(`"${item.slice(0, 60)}" is no item of a request, and is left out.`);
  }
}

const textOf = (path: string, files: ReadonlyMap<string, Uint8Array>): string | undefined => {
  const bytes = files.get(path);
  return bytes === undefined ? undefined : new TextDecoder().decode(bytes);
};

/** A file of a form; without a name it is the payload itself. */
function addFile(name: string, value: string, to: Items): void {
  const [, path = '', type] = /^([\s\S]*?)(?:;type=([\s\S]*))?$/.exec(value) ?? [];
  if (name === '') {
    to.file = path;
    return;
  }
  const fileName = lastPartOf(path);
  to.fields.push({ name, fileName, contentType: type ?? typeByPython(fileName), bytes: undefined });
}

interface Implied {
  readonly payload: DraftPayload;
  /** The Content-Type that is sent where no item says one. */
  readonly implied: string | undefined;
}

const FORM_TYPE = 'application/x-www-form-urlencoded; charset=utf-8';
const JSON_TYPE = 'application/json';

function payloadOf(items: Items, options: HttpieOptions, input: Uint8Array | undefined): Implied {
  const { file } = items;
  const { values } = items.around;
  const { isForm, isMultipart, isJson } = options;
  const implied = isForm ? FORM_TYPE : JSON_TYPE;
  const raw = options.raw === undefined ? input : bytesFromText(options.raw);
  if (raw !== undefined && raw.length > 0) return { payload: payloadOfBytes(raw, implied), implied };
  if (file !== undefined) return { payload: { type: 'file', path: file }, implied: typeByPython(file) ?? implied };
  const fields = isForm ? sameNamesTogether(items.fields.filter((field) => isPlain(field, items.notes))) : items.fields;
  if (fields.some(isFile) || (isMultipart && fields.length > 0)) {
    const parts = fields.map((field): DraftPart => (isFile(field) ? field : partOf(field)));
    return { payload: { type: 'parts', parts, boundary: options.boundary ?? FALLBACK_BOUNDARY }, implied: undefined };
  }
  const plain = fields.filter((field): field is Field => !isFile(field));
  if (plain.length === 0)
    return { payload: { type: 'none' }, implied: items.hasData || isForm || isJson ? implied : undefined };
  if (isForm) {
    const text = plain
      .map((field) => `${plusEncoded(field.name, values)}=${plusEncoded(formText(field), values)}`)
      .join('&');
    return { payload: { type: 'text', text }, implied };
  }
  return { payload: { type: 'text', text: jsonOf(plain, items) }, implied };
}

const queryOf = (query: Items['query']): string =>
  sameNamesTogether(query)
    .map(({ name, text }) => `${name}=${text}`)
    .join('&');

/** In a form and a query, what has one name stands where its first stands. */
function sameNamesTogether<T extends { readonly name: string }>(fields: readonly T[]): T[] {
  const byName = new Map<string, T[]>();
  for (const field of fields) {
    const same = byName.get(field.name);
    if (same === undefined) byName.set(field.name, [field]);
    else same.push(field);
  }
  return [...byName.values()].flat();
}

const isFile = (field: Field | DraftPart): field is DraftPart => 'bytes' in field;

const partOf = (field: Field): DraftPart => ({
  name: field.name,
  fileName: undefined,
  contentType: undefined,
  bytes: bytesFromText(formText(field)),
});

/** Forms hold no lists, no objects and no null: the http command refuses them. */
function isPlain(field: Field | DraftPart, notes: string[]): boolean {
  const isNone = 'json' in field && /^(?:[[{]|null$)/.test(field.json);
  if (isNone) notes.push(`${field.name} is ${field.json.slice(0, 60)}, which a form cannot hold; it is left out.`);
  return !isNone;
}

/** What a form holds of a field: of JSON, what Python calls it. */
function formText(field: Field): string {
  if ('text' in field) return field.text;
  const { json } = field;
  if (json.startsWith('"')) return JSON.parse(json) as string;
  return json === 'true' ? 'True' : json === 'false' ? 'False' : json;
}

function jsonOf(fields: readonly Field[], { notes, around: { values } }: Items): string {
  const items = new NestedItems();
  for (const field of fields) {
    const value = 'text' in field ? pythonString(field.text, values) : (readAsPython(field.json, values) ?? field.json);
    if (!items.put(field.name, value))
      notes.push(`${field.name} does not fit what the other items build, and is left out.`);
  }
  return pythonJson(items.whole ?? new Map(), values);
}
