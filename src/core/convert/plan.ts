import { boundaryOf, bytesFromText, textFromBytes } from '../content';
import { percentEncoded } from '../http';
import { formatMs } from '../wording';
import { type AddressRewrite, byUnknownParser, byUrlStandard, findRewrite, withAsciiHost } from './addresses';
import { type Draft, type DraftPart, encodeParts, type Variable } from './draft';
import { warnOfWritings } from './given-as';
import type { RenderOptions } from './options';
import { proxyUrl } from './proxy';
import { liftSecrets } from './secrets';
import { unsupported } from './target';
import { takeUserinfo } from './userinfo';
import { fillIn, fixedText, markOf, plainText, readValue, type Value } from './value';

/** What a target's client can and cannot do, so that a plan asks nothing of it that it would do otherwise. */
export interface Abilities {
  /** What it makes of a request-target: `sentAsIs`, or what its parser does. */
  readonly address: AddressRewrite;
  /** What its older versions make of it, where that is more; `by` says which, as "in Node before 24". */
  readonly older?: { readonly by: string; readonly address: AddressRewrite };
  /** Sends two headers of one name, rather than one with both values. */
  readonly repeats: boolean;
  /** Header values beyond ASCII: as UTF-8, or not at all. */
  readonly unicode: boolean;
  /** Header values with control characters. */
  readonly controls?: boolean;
  /** Sends headers without a value. */
  readonly empties?: boolean;
  /** Headers that it does not let anybody set, in lower case, with what happens instead. */
  readonly refuses?: (name: string, value: string) => string | undefined;
  /** Why it does not send this method, and what it does instead. */
  readonly method?: (method: string) => { readonly method: string; readonly why: string } | undefined;
  /** Sends a payload with GET and HEAD. */
  readonly payloadWithGet: boolean;
  /** Reads no file when it runs. */
  readonly files?: false;
  /** Has a multipart facility of its own; else the form is sent as the bytes that it comes to. */
  readonly parts: boolean;
  /** Whether its forms can be these parts just as they are; else the form is sent as bytes, too. */
  readonly takesParts?: (parts: readonly DraftPart[]) => boolean;
  /** The type that it gives a payload that has none, if any. */
  readonly addsType?: string;
  /** Sends Authorization and Cookie to whatever host it is redirected to. */
  readonly carriesCredentials?: true;
  /** How long it waits by itself, for the next of the answer or for all of it; absent where it waits as long as it takes. */
  readonly givesUp?: { readonly afterS: number; readonly on: 'wait' | 'whole' };
  /** Sends what ~/.netrc has for a host in place of Authorization. */
  readonly readsNetrc?: true;
  /** A command shows what comes by itself; code that would read a body where none can come shows the status. */
  readonly isCommand?: true;
}

export interface PlanHeader {
  readonly name: string;
  readonly value: Value;
}

export interface LeftOutHeader {
  readonly name: string;
  readonly value: string;
  readonly reason: string;
}

/** A body for a client that has no forms of its own. */
export type FlatBody = Exclude<PlanBody, { readonly type: 'parts' }>;

export type PlanBody =
  | { readonly type: 'none' }
  | { readonly type: 'text'; readonly value: Value }
  | { readonly type: 'bytes'; readonly bytes: Uint8Array }
  | { readonly type: 'parts'; readonly parts: readonly DraftPart[] }
  | { readonly type: 'file'; readonly path: string };

/** All that a target has to write: checked, and within what it can do. */
export interface Plan<Body extends PlanBody = PlanBody> {
  readonly method: string;
  readonly address: Value;
  /** The address is what an address parser makes of it, too. */
  readonly isPlainAddress: boolean;
  readonly headers: readonly PlanHeader[];
  readonly leftOut: readonly LeftOutHeader[];
  readonly body: Body;
  readonly contentType: Value | undefined;
  /** The variables that are used, in the order of their first use. */
  readonly variables: readonly Variable[];
  readonly answer: Exclude<Draft['answer'], 'none'>;
  readonly options: RenderOptions;
  readonly warnings: string[];
}

/** A header name or method (RFC 9110 5.6.2, token). Anything else would not be one, and might be an option or an end. */
const TOKEN = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;
// biome-ignore lint/suspicious/noControlCharactersInRegex: a line break or NUL ends a header (RFC 9110 5.5).
const ENDS_HEADER = /[\u0000\r\n]/;
// biome-ignore lint/suspicious/noControlCharactersInRegex: clients refuse these in headers.
const CONTROLS = /[\u0001-\u0008\u000b\u000c\u000e-\u001f\u007f]/;
// biome-ignore lint/suspicious/noControlCharactersInRegex: as URLs have these percent-encoded, so are they here.
const UNSENDABLE = /[\u0000-\u0020\u007f]|[^\0-\x7f]+/g;
const BEYOND_ASCII = /[^\0-\x7f]/;

/** What bodies a client can be given: forms only where it has some of its own. */
type BodyFor<Can extends Abilities> = Can['parts'] extends false ? FlatBody : PlanBody;

/** Plans a draft for a client of such abilities: what it cannot do is warned of here, in one way for all targets. */
export function planOf<Can extends Abilities>(source: Draft, options: RenderOptions, can: Can): Plan<BodyFor<Can>> {
  const draft = options.secretsFromEnv ? liftSecrets(source) : source;
  const warnings = [...draft.notes];
  const address = planAddress(draft, can, warnings);
  const body = planBody(draft, can, warnings);
  const method = planMethod(draft, body, can, warnings);
  const headers = withBoundary(
    planHeaders(withAuthorization(draft, address), body, can, warnings),
    draft,
    body,
    warnings,
  );
  const contentType = headers.find(({ name }) => name.toLowerCase() === 'content-type')?.value;
  if (can.addsType !== undefined && contentType === undefined && (body.type === 'text' || body.type === 'bytes')) {
    warnings.push(`The draft gives its payload no type; this client sends Content-Type: ${can.addsType}.`);
  }
  const carried = headers.flatMap(({ name }) => (/^(?:authorization|cookie)$/i.test(name) ? name : []));
  if (can.carriesCredentials === true && options.redirects !== 'stop' && carried.length > 0)
    warnings.push(
      `This client sends ${carried.join(' and ')} to wherever it is redirected, other hosts too: have it stop at redirects where that matters.`,
    );
  if (can.readsNetrc === true && headers.some(({ name }) => /^authorization$/i.test(name)))
    warnings.push('Where ~/.netrc has an entry for this host, this client sends that in place of Authorization.');
  warnings.push(...warnOfLimit(draft, options, can));
  const payload = body.type === 'text' ? body.value : [];
  warnings.push(...warnOfWritings(address.value, payload, plainText(contentType ?? [])));
  const used = new Set<Variable>();
  const values = [address.value, ...headers.map(({ value }) => value), payload];
  for (const piece of values.flat()) if ('variable' in piece) used.add(piece.variable);
  return {
    method,
    address: address.value,
    isPlainAddress: address.isPlain,
    headers,
    leftOut: options.commentsLeftOut ? leftOutOf(draft) : [],
    // A form is planned only for a client that has them: see planForm.
    body: body as BodyFor<Can>,
    contentType,
    variables: [...used],
    answer: draft.answer === 'none' ? 'text' : draft.answer,
    options: {
      ...options,
      prints: printsOf(draft, options, can),
      proxy: options.proxy === undefined ? undefined : proxyUrl(options.proxy),
    },
    warnings,
  };
}

/** An answer that took longer than it will be waited for does not come again. */
function warnOfLimit({ took }: Draft, { timeLimitS }: RenderOptions, { givesUp }: Abilities): string[] {
  if (took === undefined) return [];
  if (timeLimitS !== undefined)
    return took.wholeMs > timeLimitS * 1000
      ? [`The captured answer took ${formatMs(took.wholeMs)}, longer than the time limit of ${timeLimitS} s.`]
      : [];
  const tookMs = givesUp?.on === 'whole' ? took.wholeMs : took.waitMs;
  if (givesUp === undefined || tookMs <= givesUp.afterS * 1000) return [];
  return [
    `The captured answer took ${formatMs(tookMs)}${givesUp.on === 'wait' ? ' to begin' : ''}; this client gives up after ${givesUp.afterS} s by itself: set a longer time limit.`,
  ];
}

const printsOf = ({ answer }: Draft, { prints }: RenderOptions, can: Abilities): RenderOptions['prints'] =>
  answer === 'none' && prints === 'body' && can.isCommand !== true ? 'status' : prints;

interface PlannedAddress {
  readonly value: Value;
  readonly isPlain: boolean;
  /** The credentials that stood in it: no client sends them there. */
  readonly authorization: string | undefined;
}

function planAddress(draft: Draft, can: Abilities, warnings: string[]): PlannedAddress {
  const { url: bare, authorization } = takeUserinfo(draft.url, (text) => {
    const value = readValue(text, draft.variables);
    if (fixedText(value) === undefined)
      warnings.push('User and password in the URL go out in Base64: the variables in them are filled in.');
    return plainText(value);
  });
  let url = bare;
  if (/^wss?:/i.test(url)) {
    warnings.push(unsupported('A socket', 'only its opening request is sent, over http'));
    url = url.replace(/^ws/i, 'http');
  }
  url = withEncodedTarget(url, draft.variables);
  const value = readValue(url, draft.variables);
  const plain = plainText(value);
  if (!/^https?:\/\//i.test(plain)) {
    const hasScheme = /^[a-z][a-z0-9+.-]*:/i.test(plain);
    warnings.push(
      hasScheme
        ? unsupported(`The address scheme of ${plain.slice(0, 40)}`, 'the client may refuse it')
        : `The URL ${plain.slice(0, 40)} has no scheme: write out https:// and the host.`,
    );
  }
  const rewrite = findRewrite(plain, can.address);
  const older = can.older === undefined ? undefined : findRewrite(plain, can.older.address);
  if (rewrite !== undefined) {
    warnings.push(
      `In the URL "${rewrite.stands}" goes out as "${rewrite.goesOut}": this client writes URLs its own way, and the server may see another one.`,
    );
  } else if (older !== undefined) {
    warnings.push(`In the URL "${older.stands}" goes out as "${older.goesOut}" ${can.older?.by}.`);
  }
  const isPlain = findRewrite(plain, byUnknownParser) === undefined && findRewrite(plain, byUrlStandard) === undefined;
  return { value, isPlain: isPlain && /^[a-z]+:\/\/[^/?]+\//i.test(plain), authorization };
}

/** A URL whose path and query have what never goes out in them percent-encoded, as browsers do it (RFC 3986 2.1, UTF-8); the
 * places of its variables stay. */
function withEncodedTarget(url: string, variables: readonly Variable[]): string {
  const [, origin = '', target = ''] = /^([a-z][a-z0-9+.-]*:\/\/[^/?#]*)?(.*)$/is.exec(url) ?? [];
  const encoded = readValue(target, variables).map((piece) =>
    'text' in piece ? piece.text.replace(UNSENDABLE, percentEncoded) : markOf(piece.variable.name),
  );
  return withAsciiHost(origin) + encoded.join('');
}

function planBody(draft: Draft, can: Abilities, warnings: string[]): PlanBody {
  const { payload } = draft;
  if (payload.type === 'none' || payload.type === 'unrecorded') return { type: 'none' };
  if (!can.payloadWithGet && /^(GET|HEAD)$/i.test(draft.method)) {
    warnings.push(unsupported(`A payload with ${draft.method}`, 'the request goes without it'));
    return { type: 'none' };
  }
  switch (payload.type) {
    case 'text':
      return { type: 'text', value: readValue(payload.text.toWellFormed(), draft.variables) };
    case 'bytes':
      return payload.beside === undefined || can.files === false ? payload : { type: 'file', path: payload.beside };
    case 'file':
      warnings.push(`The payload is read from ${payload.path}: put that file next to the code.`);
      return payload;
    case 'parts':
      return planForm(payload, draft, can, warnings);
    default:
      return payload satisfies never;
  }
}

/**
 * A form as the client's own, else as the bytes that it comes to. No client's own form takes what only the running code
 * knows: with variables in it a form is written as the text that it is.
 */
function planForm(
  payload: Extract<Draft['payload'], { readonly type: 'parts' }>,
  draft: Draft,
  can: Abilities,
  warnings: string[],
): PlanBody {
  const lacking = payload.parts.filter(({ bytes }) => bytes === undefined);
  for (const { fileName } of lacking)
    warnings.push(`The file "${fileName}" is not in the capture: put it next to the code.`);
  const holdsVariable = ({ bytes }: DraftPart): boolean =>
    bytes !== undefined && fixedText(readValue(textFromBytes(bytes) ?? '', draft.variables)) === undefined;
  const asIs = (form: typeof payload): PlanBody =>
    can.parts && form.parts.length > 0 && can.takesParts?.(form.parts) !== false
      ? { ...form, parts: form.parts.map(fromBeside) }
      : { type: 'bytes', bytes: encodeParts(form.parts, form.boundary) };
  if (!payload.parts.some(holdsVariable)) return asIs(payload);
  const text = lacking.length === 0 ? textFromBytes(encodeParts(payload.parts, payload.boundary)) : undefined;
  if (text !== undefined) return { type: 'text', value: readValue(text, draft.variables) };
  warnings.push('The variables in the form are written as their values: next to a file it takes no variables.');
  const { payload: filled } = fillIn(draft);
  return asIs(filled.type === 'parts' ? filled : payload);
}

/** A part whose content stands beside the code, read from there. */
const fromBeside = (part: DraftPart): DraftPart => (part.isBeside === true ? { ...part, bytes: undefined } : part);

function planMethod(draft: Draft, body: PlanBody, can: Abilities, warnings: string[]): string {
  const fallback = body.type === 'none' ? 'GET' : 'POST';
  if (!TOKEN.test(draft.method)) {
    warnings.push(unsupported(`The method ${JSON.stringify(draft.method)}`, `${fallback} is sent`));
    return fallback;
  }
  const other = can.method?.(draft.method);
  if (other === undefined) return draft.method;
  warnings.push(unsupported(`The method ${draft.method}`, other.why));
  return other.method;
}

/** The credentials of an address as the header that clients make of them, where there is no other. */
function withAuthorization(draft: Draft, { authorization }: PlannedAddress): Draft {
  const has = draft.headers.some(({ name, kept }) => kept && name.toLowerCase() === 'authorization');
  if (authorization === undefined || has) return draft;
  const header = { name: 'Authorization', value: authorization, role: 'credential', kept: true, reason: '' } as const;
  return { ...draft, headers: [...draft.headers, header] };
}

function planHeaders(draft: Draft, body: PlanBody, can: Abilities, warnings: string[]): PlanHeader[] {
  const planned: PlanHeader[] = [];
  for (const { name, value: written, kept } of draft.headers) {
    if (!kept || (body.type === 'parts' && name.toLowerCase() === 'content-type')) continue;
    const value = trimmed(readValue(written.toWellFormed(), draft.variables));
    const plain = plainText(value);
    const refused = can.refuses?.(name.toLowerCase(), plain);
    const problem =
      !TOKEN.test(name) || ENDS_HEADER.test(plain)
        ? 'it is not a valid header, and is left out'
        : CONTROLS.test(plain) && can.controls !== true
          ? 'control characters are refused, and it is left out'
          : plain === '' && can.empties === false
            ? 'it has no value, and is left out'
            : BEYOND_ASCII.test(plain) && !can.unicode
              ? 'characters beyond ASCII are refused, and it is left out'
              : refused;
    if (problem === undefined) planned.push({ name, value });
    else warnings.push(unsupported(`The header ${JSON.stringify(name)}`, problem));
  }
  return can.repeats ? planned : joinRepeated(planned, warnings);
}

/** A form that is sent as bytes needs the boundary named that is written in them. */
function withBoundary(headers: PlanHeader[], { payload }: Draft, body: PlanBody, warnings: string[]): PlanHeader[] {
  if (payload.type !== 'parts' || body.type === 'parts') return headers;
  const own = headers.find(({ name }) => name.toLowerCase() === 'content-type');
  const named = own === undefined ? undefined : boundaryOf(plainText(own.value));
  if (own !== undefined && named === payload.boundary) return headers;
  if (own !== undefined)
    warnings.push(
      named === undefined
        ? 'The header Content-Type names no boundary: that of the form is added.'
        : 'The header Content-Type names another boundary than the form has: that of the form is sent.',
    );
  const boundary = /^[A-Za-z0-9'()+_,./:=?-]+$/.test(payload.boundary) ? payload.boundary : `"${payload.boundary}"`;
  const type = own === undefined ? 'multipart/form-data' : plainText(own.value).replace(/;\s*boundary=.*$/i, '');
  const value = [{ text: `${type}; boundary=${boundary}` }];
  if (own === undefined) return [...headers, { name: 'Content-Type', value }];
  return headers.map((header) => (header === own ? { ...header, value } : header));
}

/** Blanks around a value are no part of it (RFC 9110 5.5). */
function trimmed(value: Value): Value {
  return value
    .map((piece, at) => {
      if (!('text' in piece)) return piece;
      const start = at === 0 ? piece.text.replace(/^[ \t]+/, '') : piece.text;
      return { text: at === value.length - 1 ? start.replace(/[ \t]+$/, '') : start };
    })
    .filter((piece) => !('text' in piece) || piece.text !== '');
}

/** Headers of one name as one, which says the same (RFC 9110 5.3). */
function joinRepeated(headers: readonly PlanHeader[], warnings: string[]): PlanHeader[] {
  const joined = new Map<string, PlanHeader>();
  for (const header of headers) {
    const key = header.name.toLowerCase();
    const before = joined.get(key);
    if (before === undefined) {
      joined.set(key, header);
      continue;
    }
    const between = key === 'cookie' ? '; ' : ', ';
    warnings.push(
      `The header ${header.name} goes out once, its values joined by "${between.trim()}", which means the same.`,
    );
    joined.set(key, { name: before.name, value: [...before.value, { text: between }, ...header.value] });
  }
  return [...joined.values()];
}

/** What a comment can hold: computed headers are nothing to read about. */
function leftOutOf(draft: Draft): LeftOutHeader[] {
  return draft.headers.flatMap(({ name, value, kept, role, reason }) =>
    kept || role === 'computed' || !TOKEN.test(name) ? [] : [{ name, value, reason }],
  );
}

/** Browsers send "Content-Length: 0" with these methods, and many servers insist on it. */
export const sendsEmptyBody = (method: string): boolean => /^(POST|PUT|PATCH)$/.test(method);

/** A body's bytes; undefined for what only the running code knows. */
export function bodyBytes(body: PlanBody): Uint8Array | undefined {
  if (body.type === 'bytes') return body.bytes;
  return body.type === 'text' ? bytesFromText(plainText(body.value)) : undefined;
}

/** The body's text where it is text without variables. */
export const bodyText = (body: PlanBody): string | undefined =>
  body.type === 'text' ? fixedText(body.value) : undefined;
