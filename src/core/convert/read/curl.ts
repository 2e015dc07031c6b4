import { bytesFromText, joinBytes } from '../../content';
import { findHeader, type NameValue } from '../../model';
import { type DraftPart, type DraftPayload, FALLBACK_BOUNDARY, payloadOfBytes } from '../draft';
import type { Command, Surroundings } from './command';
import { type AddressOptions, addressOf } from './curl-address';
import { readCurlConfig } from './curl-config';
import { expandGlobs } from './curl-globs';
import { type GivenArguments, type GivenOption, readArguments } from './curl-options';
import { addPart } from './curl-parts';
import { addLacking, basicAround, plusEncoded, type ReadRequest } from './request';

/** What curl prints, how it connects and what it does with the answer: nothing of it is part of a request. */
const UNTOLD =
  /^(silent|show-error|verbose|include|fail|fail-with-body|output|progress-bar|no-progress-meter|write-out|no-buffer|remote-.*|create-dirs|output-dir|trace.*|stderr|styled-output|form-escape|globoff|compressed|dump-header)$/;

interface Building extends AddressOptions {
  method: string | undefined;
  urls: string[];
  readonly headers: NameValue[];
  /** Headers that are removed, in lower case. */
  readonly removed: Set<string>;
  readonly data: Uint8Array[];
  /** Credentials that options give: used unless a header says otherwise; a token comes before a user, unless --basic is given. */
  user: string | undefined;
  bearer: string | undefined;
  isBasic: boolean;
  /** Credentials that only a challenge of the server asks for: not part of the first request. */
  isChallenged: boolean;
  readonly parts: DraftPart[];
  file: string | undefined;
  isUpload: boolean;
  isGet: boolean;
  isHead: boolean;
  isJson: boolean;
  wantsCompressed: boolean;
  target: string | undefined;
  keepsDots: boolean;
  /** Ranges and lists in the address are expanded. */
  isGlobbed: boolean;
  readonly query: string[];
  /** What options say of cookies: a header of that name takes their place. */
  readonly cookies: string[];
  agent: string | undefined;
  referrer: string | undefined;
  condition: NameValue | undefined;
  range: string | undefined;
  readonly notes: string[];
  readonly around: Surroundings;
}

/** A request from curl's words, one a group of options that --next parts, one an address (curl manual). */
export function readCurl({ words, input }: Command, around: Surroundings): ReadRequest[] {
  const { items: own, problems } = readArguments(words.slice(1));
  const items = own.flatMap((item) => ('name' in item && item.name === 'config' ? configItems(item, input) : [item]));
  const requests: ReadRequest[] = [];
  let building = start(problems, around);
  const variables = new Map<string, string>();
  for (const item of items) {
    if ('address' in item) building.urls.push(item.address);
    else if (item.name === 'next') {
      requests.push(...finish(building));
      building = start([], around);
    } else if (item.name === 'variable') setVariable(item.value ?? '', variables, building.notes);
    else apply(expanded(item, variables, building.notes), building, input, around.files);
  }
  return [...requests, ...finish(building)];
}

/** The options of a config file that stands in the text; one of another file is told as any option is. */
function configItems(item: GivenOption, input: Uint8Array | undefined): GivenArguments['items'] {
  if (item.value !== '-' || input === undefined) return [item];
  return readArguments(readCurlConfig(new TextDecoder().decode(input)).words.slice(1)).items;
}

const start = (notes: readonly string[], around: Surroundings): Building => ({
  method: undefined,
  urls: [],
  headers: [],
  removed: new Set(),
  data: [],
  user: undefined,
  bearer: undefined,
  isBasic: false,
  isChallenged: false,
  parts: [],
  file: undefined,
  isUpload: false,
  isGet: false,
  isHead: false,
  isJson: false,
  wantsCompressed: false,
  target: undefined,
  keepsDots: false,
  isGlobbed: true,
  query: [],
  agent: undefined,
  referrer: undefined,
  condition: undefined,
  range: undefined,
  cookies: [],
  notes: [...notes],
  around,
});

/** Does what an option says. Long because it is curl's own list of options, with what each of them changes. */
function apply(
  { name, value = '' }: GivenOption,
  to: Building,
  input: Uint8Array | undefined,
  files: ReadonlyMap<string, Uint8Array>,
): void {
  switch (name) {
    case 'url':
      to.urls.push(value);
      return;
    case 'request':
      to.method = value;
      return;
    case 'head':
      to.isHead = true;
      return;
    case 'get':
      to.isGet = true;
      return;
    case 'header':
      addHeader(value, to);
      return;
    case 'user-agent':
      to.agent = value;
      return;
    case 'referer':
      to.referrer = value.replace(/;auto$/, '');
      return;
    case 'cookie':
      if (value.includes('=')) to.cookies.push(value);
      else to.notes.push(`Cookies would be read from the file "${value}", which is not here.`);
      return;
    case 'user':
      to.user = value;
      return;
    case 'basic':
      to.isBasic = true;
      return;
    case 'oauth2-bearer':
      to.bearer = value;
      return;
    case 'range':
      to.range = value;
      return;
    case 'time-cond':
      to.condition = {
        name: value.startsWith('-') ? 'If-Unmodified-Since' : 'If-Modified-Since',
        value: value.replace(/^[-=+]/, ''),
      };
      return;
    case 'digest':
    case 'ntlm':
    case 'ntlm-wb':
    case 'negotiate':
    case 'anyauth':
    case 'aws-sigv4':
      to.isChallenged = true;
      to.notes.push(`--${name} computes fresh credentials for every request: they are left out.`);
      return;
    case 'path-as-is':
      to.keepsDots = true;
      return;
    case 'compressed':
      to.wantsCompressed = true;
      return;
    case 'data':
    case 'data-ascii':
    case 'data-binary':
      addData(value, name !== 'data-binary', to, input, files);
      return;
    case 'data-raw':
      to.data.push(bytesFromText(value));
      return;
    case 'json':
      to.isJson = true;
      addJson(value, to, input, files);
      return;
    case 'data-urlencode':
      to.data.push(bytesFromText(urlEncoded(value, to)));
      return;
    case 'url-query':
      to.query.push(value.startsWith('+') ? value.slice(1) : urlEncoded(value, to));
      return;
    case 'form':
    case 'form-string':
      addPart(value, name === 'form', to);
      return;
    case 'upload-file':
      to.method ??= 'PUT';
      to.isUpload = true;
      if (value === '-' && input !== undefined) to.data.push(input);
      else to.file = value;
      return;
    case 'request-target':
      if (value.startsWith('/')) to.target = value;
      else to.notes.push(`The request-target ${value} stands in no URL, and is left out.`);
      return;
    case 'globoff':
      to.isGlobbed = false;
      return;
    case 'config':
      to.notes.push(`More options would be read from the file "${value}", which is not here.`);
      return;
    default:
      if (!UNTOLD.test(name))
        to.notes.push(
          `--${name}${value === '' ? '' : ` ${value}`} shapes the connection, not the request, and is left out.`,
        );
  }
}

function addHeader(line: string, to: Building): void {
  if (line.startsWith('@')) {
    to.notes.push(`Headers would be read from the file "${line.slice(1)}", which is not here.`);
    return;
  }
  const colon = line.indexOf(':');
  if (colon === -1) {
    if (line.endsWith(';')) to.headers.push({ name: line.slice(0, -1), value: '' });
    else to.notes.push(`"${line}" is not a header, and curl does not send it.`);
    return;
  }
  const value = line.slice(colon + 1).replace(/^[ \t]+|[ \t]+$/g, '');
  if (value === '') to.removed.add(line.slice(0, colon).toLowerCase());
  else to.headers.push({ name: line.slice(0, colon), value });
}

function addData(
  value: string,
  isText: boolean,
  to: Building,
  input: Uint8Array | undefined,
  files: ReadonlyMap<string, Uint8Array>,
): void {
  if (!value.startsWith('@')) {
    to.data.push(bytesFromText(value));
    return;
  }
  const path = value.slice(1);
  const bytes = path === '-' ? input : files.get(path);
  if (bytes === undefined) {
    if (path === '-') to.notes.push('The payload would be read from standard input, which is not here.');
    else to.file = path;
    return;
  }
  // As text, curl drops line ends and NUL from files.
  to.data.push(isText ? bytes.filter((byte) => byte !== 10 && byte !== 13 && byte !== 0) : bytes);
}

/** Pieces of JSON follow one another without an ampersand (curl manual, --json). */
function addJson(
  value: string,
  to: Building,
  input: Uint8Array | undefined,
  files: ReadonlyMap<string, Uint8Array>,
): void {
  const before = to.data.pop();
  const count = to.data.length;
  addData(value, false, to, input, files);
  // A file that is not here adds nothing.
  const after = to.data.length > count ? to.data.pop() : undefined;
  const pieces = [before, after].filter((piece) => piece !== undefined);
  if (pieces.length > 0) to.data.push(joinBytes(pieces));
}

/** --variable name=content; from files and the environment nothing is known here (curl manual). */
function setVariable(value: string, variables: Map<string, string>, notes: string[]): void {
  const [, name = '', content] = /^([A-Za-z0-9_]+)=([\s\S]*)$/.exec(value) ?? [];
  if (content === undefined) notes.push(`The variable ${value} is read from elsewhere, and stays as it is named.`);
  else variables.set(name, content);
}

/** An option with the variables in its value filled in, where they are to be. */
function expanded(option: GivenOption, variables: ReadonlyMap<string, string>, notes: string[]): GivenOption {
  const { value, isExpanded } = option;
  if (!isExpanded || value === undefined) return option;
  const filled = value.replace(/\{\{([A-Za-z0-9_]+)(:[^}]*)?\}\}/g, (whole, name: string, functions?: string) => {
    if (functions !== undefined) notes.push(`The functions in ${whole} are not worked out here.`);
    return (functions === undefined ? variables.get(name) : undefined) ?? whole;
  });
  return { ...option, value: filled };
}

/** What --data-urlencode makes of its value (curl manual). */
function urlEncoded(value: string, to: Building): string {
  const [, name = '', sign = '', content = ''] = /^([^=@]*)([=@])([\s\S]*)$/.exec(value) ?? ['', '', '', value];
  if (sign === '@') {
    to.notes.push(`A value would be read from the file "${content}", which is not here.`);
    return name === '' ? '' : `${name}=`;
  }
  const encoded = plusEncoded(content, to.around.values);
  return name === '' ? encoded : `${name}=${encoded}`;
}

function finish(from: Building): ReadRequest[] {
  const { notes } = from;
  if (from.urls.length === 0 && from.target === undefined) {
    return [];
  }
  const headers = [...from.headers];
  const add = (name: string, value: string): void => {
    if (!from.removed.has(name.toLowerCase())) addLacking(headers, name, value);
  };
  const hasOwn = (name: string): boolean => from.removed.has(name) || findHeader(headers, name) !== undefined;
  addByOptions(from, add, hasOwn('authorization'));
  const bytes = joinData(from.data);
  const isQuery = from.isGet && from.data.length > 0;
  const hasData = from.data.length > 0 && !isQuery;
  if (from.isJson) {
    add('Content-Type', 'application/json');
    add('Accept', 'application/json');
  } else if (hasData || (from.file !== undefined && !from.isUpload)) {
    add('Content-Type', 'application/x-www-form-urlencoded');
  }
  const contentType = findHeader(headers, 'content-type');
  const payload: DraftPayload =
    from.parts.length > 0
      ? { type: 'parts', parts: from.parts, boundary: FALLBACK_BOUNDARY }
      : from.file !== undefined && from.data.length === 0
        ? { type: 'file', path: from.file }
        : hasData
          ? payloadOfBytes(bytes, contentType)
          : { type: 'none' };
  const hasPayload = payload.type !== 'none';
  const method =
    from.method ?? (from.isHead ? 'HEAD' : hasPayload && (!from.isGet || from.parts.length > 0) ? 'POST' : 'GET');
  addRange(from, add, hasData ? bytes.length : undefined, hasPayload);
  // Of data in the query, nothing else is added to it.
  const query = isQuery ? [new TextDecoder().decode(bytes)].filter((text) => text !== '') : from.query;
  const globbed = from.urls.map((url) => (from.isGlobbed ? expandGlobs(url) : { addresses: [url], notes: [] }));
  notes.push(...globbed.flatMap((one) => one.notes));
  return globbed
    .flatMap(({ addresses }) => addresses)
    .map((given) => {
      const { address, credentials } = addressOf(given, from, query, notes, from.around.values);
      const own = credentials === undefined || hasOwn('authorization') || from.isChallenged;
      return {
        method,
        url: address,
        headers: own
          ? headers
          : [...headers, { name: 'Authorization', value: basicAround(credentials, from.around, notes) }],
        payload: payload.type === 'text' && payload.text === '' ? { type: 'none' } : payload,
        wantsCompressed: from.wantsCompressed,
        notes,
      };
    });
}

/** Headers that have options of their own: one that is given takes the place of its option; an empty option sends none. */
function addByOptions(from: Building, add: (name: string, value: string) => void, isAuthorized: boolean): void {
  const { agent, referrer, condition, cookies, bearer, user, around, notes } = from;
  if (agent) add('User-Agent', agent);
  if (referrer) add('Referer', referrer);
  if (condition !== undefined) add(condition.name, condition.value);
  if (cookies.length > 0) add('Cookie', cookies.join(';'));
  if (isAuthorized || from.isChallenged) return;
  if (bearer !== undefined && !from.isBasic) add('Authorization', `Bearer ${bearer}`);
  else if (user !== undefined) add('Authorization', basicAround(user, around, notes));
}

/** A range of what is fetched; of what is sent, it goes by another name. */
function addRange(
  { range, notes }: Building,
  add: (name: string, value: string) => void,
  sentBytes: number | undefined,
  hasPayload: boolean,
): void {
  if (range === undefined) return;
  if (sentBytes !== undefined) add('Content-Range', `bytes ${range}/${sentBytes}`);
  else if (hasPayload) notes.push(`--range ${range} says nothing of what is fetched where something is sent.`);
  else add('Range', `bytes=${range}`);
}

const AMPERSAND = bytesFromText('&');

/** Several data options are one payload, joined by "&". */
const joinData = (data: readonly Uint8Array[]): Uint8Array =>
  joinBytes(data.flatMap((piece, at) => (at === 0 ? [piece] : [AMPERSAND, piece])));
