import { base64Of, bytesFromText, joinBytes } from '../../content';
import type { NameValue } from '../../model';
import type { DraftPart } from '../draft';
import { betweenMarks, encodedAround, type KnownValues } from '../value';

/** A member or an argument whose value cannot be told. */
export class Unknown {
  constructor(readonly source: string) {}
}

/** Fields of a form or a query (URL Standard, 6.2). */
export class FormText {
  pairs: NameValue[];
  readonly #values: KnownValues;

  constructor(init: unknown, values: KnownValues) {
    this.#values = values;
    this.pairs =
      init instanceof FormText
        ? [...init.pairs]
        : typeof init === 'string'
          ? pairsOfQuery(init.replace(/^\?/, ''))
          : pairsOf(init);
  }

  get text(): string {
    const encode = (text: string): string => formEncoded(text, this.#values);
    return this.pairs.map(({ name, value }) => `${encode(name)}=${encode(value)}`).join('&');
  }

  /** Does what a call of one of its methods does; false where it has none of that name. */
  call(method: string, [name, value]: readonly unknown[]): boolean {
    return callPairs(this.pairs, method, asText(name), asText(value), (a, b) => a === b);
  }
}

/** A form of parts (XMLHttpRequest Standard, 4). */
export class FormParts {
  readonly parts: DraftPart[] = [];

  call(method: string, [name, value, fileName]: readonly unknown[]): boolean {
    const field = asText(name);
    if (method === 'append') this.parts.push(partOf(field, value, fileName));
    else if (method === 'set') {
      const first = this.parts.findIndex((part) => part.name === field);
      const part = partOf(field, value, fileName);
      if (first === -1) this.parts.push(part);
      else this.parts.splice(0, this.parts.length, ...replaced(this.parts, first, part));
    } else if (method === 'delete') {
      const kept = this.parts.filter((part) => part.name !== field);
      this.parts.splice(0, this.parts.length, ...kept);
    } else return false;
    return true;
  }
}

const replaced = (parts: readonly DraftPart[], first: number, part: DraftPart): DraftPart[] =>
  parts.flatMap((one, at) => (at === first ? [part] : one.name === part.name ? [] : [one]));

function partOf(name: string, value: unknown, given: unknown): DraftPart {
  const fileName = typeof given === 'string' ? given : undefined;
  if (value instanceof ScriptBlob)
    return {
      name,
      fileName: fileName ?? 'blob',
      contentType: value.type || 'application/octet-stream',
      bytes: value.bytes,
    };
  if (value instanceof Unknown || value instanceof Map)
    return { name, fileName: fileName ?? name, contentType: undefined, bytes: undefined };
  return { name, fileName: undefined, contentType: undefined, bytes: bytesFromText(asText(value)) };
}

/** Headers of a request (Fetch Standard, 5.1). */
export class ScriptHeaders {
  readonly pairs: NameValue[];

  constructor(init: unknown) {
    this.pairs = init instanceof ScriptHeaders ? [...init.pairs] : pairsOf(init);
  }

  call(method: string, [name, value]: readonly unknown[]): boolean {
    const isSame = (a: string, b: string): boolean => a.toLowerCase() === b.toLowerCase();
    return callPairs(this.pairs, method, asText(name), asText(value), isSame);
  }
}

/** An address that its parts are set of (URL Standard, 6.1). */
export class ScriptUrl {
  readonly query: FormText;
  #start: string;
  #search: string;
  /** The query as it stood; it is written anew only where a call changed it. */
  #written: string;
  readonly #values: KnownValues;

  constructor(href: string, values: KnownValues) {
    this.#values = values;
    const [, start = '', search = ''] = /^([^?#]*)(\?[^#]*)?/.exec(href) ?? [];
    this.#start = start;
    this.#search = search;
    this.query = new FormText(search, values);
    this.#written = this.query.text;
  }

  get href(): string {
    const { text } = this.query;
    const search = text === this.#written ? this.#search : text === '' ? '' : `?${text}`;
    return this.#start + search;
  }

  /** Sets one of its parts, as far as it is sent. */
  set(part: string, value: string): void {
    const [, scheme = '', place = '', path = ''] =
      /^([a-z][a-z0-9+.-]*:\/\/)?([^/]*)([\s\S]*)$/i.exec(this.#start) ?? [];
    const [, name = '', port = ''] = /^(\[[^\]]*\]|[^:]*)(:.*)?$/.exec(place) ?? [];
    if (part === 'search') {
      this.#search = value === '' || value.startsWith('?') ? value : `?${value}`;
      this.query.pairs = new FormText(value, this.#values).pairs;
      this.#written = this.query.text;
    } else if (part === 'pathname') this.#start = scheme + place + (value.startsWith('/') ? value : `/${value}`);
    else if (part === 'protocol') this.#start = `${value.replace(/:$/, '')}://${place}${path}`;
    else if (part === 'hostname') this.#start = scheme + value + port + path;
    else if (part === 'port') this.#start = scheme + name + (value === '' ? '' : `:${value}`) + path;
    else if (part === 'host') this.#start = scheme + value + (value.includes(':') ? '' : port) + path;
    else if (part === 'href') {
      const other = new ScriptUrl(value, this.#values);
      this.#start = other.#start;
      this.set('search', other.#search);
    }
  }
}

/** Bytes, with the media type that they have been given: none where they are only bytes. */
export class ScriptBlob {
  constructor(
    readonly bytes: Uint8Array,
    readonly type: string,
  ) {}

  static of(pieces: unknown, options: unknown): ScriptBlob | undefined {
    if (!Array.isArray(pieces)) return undefined;
    const bytes = pieces.map((piece: unknown) =>
      piece instanceof ScriptBlob ? piece.bytes : bytesFromText(asText(piece)),
    );
    const type = options instanceof Map ? (options as Map<string, unknown>).get('type') : undefined;
    return new ScriptBlob(joinBytes(bytes), typeof type === 'string' ? type : '');
  }
}

/** What makes bytes of text. */
export class ScriptEncoder {}

/** A request that was made ahead of its call. */
export class ScriptRequest {
  constructor(
    readonly url: string,
    readonly init: ReadonlyMap<string, unknown>,
  ) {}
}

function callPairs(
  pairs: NameValue[],
  method: string,
  name: string,
  value: string,
  isSame: (a: string, b: string) => boolean,
): boolean {
  const isOther = (pair: NameValue): boolean => !isSame(pair.name, name);
  if (method === 'append') pairs.push({ name, value });
  else if (method === 'set') {
    const first = pairs.findIndex((pair) => !isOther(pair));
    const kept = pairs.flatMap((pair, at) =>
      at === first ? [{ name: pair.name, value }] : isOther(pair) ? [pair] : [],
    );
    pairs.splice(0, pairs.length, ...kept, ...(first === -1 ? [{ name, value }] : []));
  } else if (method === 'delete') pairs.splice(0, pairs.length, ...pairs.filter(isOther));
  else if (method === 'sort') pairs.sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
  else return false;
  return true;
}

/** What a value is as text (ECMA-262, 7.1.17). */
export function asText(value: unknown): string {
  if (value instanceof FormText) return value.text;
  if (value instanceof ScriptUrl) return value.href;
  if (value instanceof FormParts) return '[object FormData]';
  if (value instanceof ScriptHeaders) return '[object Headers]';
  if (value instanceof ScriptBlob) return '[object Blob]';
  if (value instanceof ScriptRequest) return '[object Request]';
  if (value instanceof Map) return '[object Object]';
  if (Array.isArray(value)) return value.map((one: unknown) => (one == null ? '' : asText(one))).join(',');
  return String(value);
}

const formEncoded = (text: string, values: KnownValues): string =>
  encodedAround(text, (piece) => new URLSearchParams([['', piece]]).toString().slice(1), values);

/** The fields of a query, decoded between the marks in it. */
function pairsOfQuery(query: string): NameValue[] {
  const decode = (text: string): string =>
    betweenMarks(text, (piece) => new URLSearchParams(`a=${piece}`).get('a') ?? '');
  return query
    .split('&')
    .filter((part) => part !== '')
    .map((part) => {
      const equals = part.indexOf('=');
      return equals === -1
        ? { name: decode(part), value: '' }
        : { name: decode(part.slice(0, equals)), value: decode(part.slice(equals + 1)) };
    });
}

/** Names and values of an object, or of a list of pairs; members that cannot be told are left out. */
export function pairsOf(value: unknown): NameValue[] {
  if (value instanceof ScriptHeaders || value instanceof FormText) return [...value.pairs];
  if (value instanceof Map)
    return [...(value as Map<string, unknown>)].flatMap(([name, one]) =>
      one instanceof Unknown ? [] : [{ name, value: asText(one) }],
    );
  return Array.isArray(value)
    ? value.flatMap((pair: unknown) => (Array.isArray(pair) ? [{ name: asText(pair[0]), value: asText(pair[1]) }] : []))
    : [];
}

/** Text whose characters are bytes, in Base64; undefined where there are others in it, or marks. */
export const inBase64 = (text: string): string | undefined =>
  /^[\0-\xff]*$/.test(text) ? base64Of(Uint8Array.from(text, (character) => character.charCodeAt(0))) : undefined;
