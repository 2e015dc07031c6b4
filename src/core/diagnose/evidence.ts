import { clockOffsetMs } from '../analysis';
import { type CachePolicy, readPolicy } from '../cache';
import { readCredentials } from '../content';
import { readHttpDate } from '../http';
import {
  type Exchange,
  type ExchangeIndex,
  findField,
  findHeader,
  findLines,
  findResponse,
  type ResponsePart,
} from '../model';
import { type BodyFault, type Digest, findFault, type RecordedBody } from './body-fault';
import { findCloseCode } from './close-code';
import { findErrorInside } from './error-inside';
import { measureFields } from './fields';
import { Stock } from './stock';
import { askedValues, givenValues } from './values';

/** What rules need of an exchange beside its row: taken while its body is at hand, small enough to keep for all. */
export interface Evidence {
  readonly index: ExchangeIndex;
  readonly policy: CachePolicy | undefined;
  readonly requestHeaders: Picked<RequestHeader>;
  readonly responseHeaders: Picked<ResponseHeader>;
  /** The request asked only for what had changed (RFC 9110 13.1.2, 13.1.3). */
  readonly isConditional: boolean;
  /** Of the recorded body's bytes; the same for the same bytes. */
  readonly bodyHash: string | undefined;
  /** Bytes of the recorded body, decoded. */
  readonly recordedBytes: number | undefined;
  /** What the body comes to when it is compressed; only where it travelled uncompressed and is worth it. */
  readonly compressedBytes: number | undefined;
  /** What an answer that was sent as a success says went wrong. */
  readonly errorInside: string | undefined;
  /** The body is a page of HTML, whatever its type says. */
  readonly isPage: boolean;
  /** What is wrong with the body: it says that it is JSON and is none, is text where an image or a font was to come, or is not what its page demands. */
  readonly fault: BodyFault | undefined;
  /** The server's clock less the recording computer's, in ms. */
  readonly clockOffsetMs: number | undefined;
  /** What refused the request says that its token or session has expired. */
  readonly saysExpired: boolean;
  /** When the request's token ran out, in ms since 1970. */
  readonly tokenExpiresAt: number | undefined;
  readonly cookieBytes: number;
  /** Its Set-Cookie lines, the first of many. */
  readonly setCookies: readonly string[];
  /** Of a call: the values in its request, and those in its answer, by which what was used of an answer can be told. */
  readonly asked: Uint32Array | undefined;
  readonly given: Uint32Array | undefined;
  /** Bytes that each field's name and own values take in a large JSON body, by its name. */
  readonly fieldBytes: ReadonlyMap<string, number> | undefined;
  /** What a socket was closed with (RFC 6455, section 7.4), where the recorder kept the frame. */
  readonly closeCode: number | undefined;
  /** The recorder's note of a cut transfer or a missing answer. */
  readonly outcome: Exchange['outcome']['type'];
}

/** What core cannot do itself. */
export interface EvidenceTools {
  /** Length in bytes once compressed as web servers do. */
  readonly compressedLength: (bytes: Uint8Array) => number;
  readonly digest: Digest;
}

/** On the wire a body that is not packed has about its own length. */
const NEAR_SHARE = 0.9;
/** Smaller bodies are not worth compressing: they fit into the packets that go anyway. */
const WORTH_COMPRESSING_BYTES = 1400;
const COMPRESSIBLE =
  /^(text\/|application\/(javascript|json|xml|manifest\+json|.*\+json|.*\+xml|wasm)|image\/svg\+xml|font\/(ttf|otf))/;
/** Headers that rules look at; the others are not kept, and a rule cannot ask for them. */
const REQUEST_HEADERS = [
  'authorization',
  'cookie',
  'origin',
  'referer',
  'accept',
  'accept-encoding',
  'cache-control',
  'access-control-request-method',
  'access-control-request-headers',
  'sec-fetch-mode',
  'sec-fetch-site',
] as const;
const RESPONSE_HEADERS = [
  'content-type',
  'content-encoding',
  'content-length',
  'content-disposition',
  'cache-control',
  'date',
  'age',
  'vary',
  'retry-after',
  'server-timing',
  'content-security-policy',
  'access-control-allow-origin',
  'access-control-allow-methods',
  'access-control-allow-headers',
  'access-control-allow-credentials',
  'access-control-max-age',
  'x-content-type-options',
  'x-frame-options',
  'www-authenticate',
] as const;
type RequestHeader = (typeof REQUEST_HEADERS)[number];
type ResponseHeader = (typeof RESPONSE_HEADERS)[number];

/** More cookies than browsers keep for a site are nothing to follow. */
const MOST_COOKIES = 60;

/** Takes the evidence of one exchange. @param stock what those before it had alike */
export function takeEvidence(
  exchange: Exchange,
  body: RecordedBody | undefined,
  tools: EvidenceTools,
  stock = new Stock(),
): Evidence {
  const response = findResponse(exchange);
  const request = exchange.request;
  const authorization = findHeader(request.headers, 'authorization');
  const credentials = authorization === undefined ? undefined : readCredentials(authorization);
  const cookie = findHeader(request.headers, 'cookie');
  const head = body?.text?.slice(0, 512).trimStart().toLowerCase() ?? '';
  return {
    index: exchange.index,
    policy: stock.policy(readPolicy(exchange)),
    requestHeaders: new Picked(REQUEST_HEADERS, stock, (name) => findField(request.headers, name)),
    responseHeaders: new Picked(RESPONSE_HEADERS, stock, (name) => findField(response?.headers ?? [], name)),
    isConditional:
      findHeader(request.headers, 'if-none-match') !== undefined ||
      findHeader(request.headers, 'if-modified-since') !== undefined,
    bodyHash: body?.hash,
    recordedBytes: body?.bytes.length,
    compressedBytes: body === undefined ? undefined : measureCompressed(exchange, body.bytes, tools),
    errorInside: response === undefined ? undefined : findErrorInside(response, body?.text),
    fault: response === undefined || body === undefined ? undefined : findFault(exchange, response, body, tools),
    clockOffsetMs: clockOffsetMs(exchange),
    saysExpired: saysExpired(response, body?.text),
    isPage: head.startsWith('<!doctype html') || head.startsWith('<html'),
    tokenExpiresAt: credentials?.type === 'jwt' ? credentials.expiresAt : undefined,
    cookieBytes: cookie?.length ?? 0,
    setCookies: findLines(response?.headers ?? [], 'set-cookie').slice(0, MOST_COOKIES),
    asked: exchange.kind.value === 'data' ? askedValues(request) : undefined,
    given:
      exchange.kind.value === 'data' && body?.isJson === true
        ? givenValues(response?.headers ?? [], body.text)
        : undefined,
    fieldBytes: body?.text === undefined || body.isJson !== true ? undefined : measureFields(body.text),
    closeCode: findCloseCode(exchange.messages),
    outcome: exchange.outcome.type,
  };
}

const MOST_CHARS = 4000;

/** The few headers that were there of those that rules look at: a map for each exchange would take ten times as much room. */
class Picked<Name extends string> {
  readonly #names: readonly Name[];
  readonly #values: readonly string[];

  constructor(names: readonly Name[], stock: Stock, find: (name: Name) => string | undefined) {
    const there: Name[] = [];
    const values: string[] = [];
    for (const name of names) {
      const value = find(name);
      if (value === undefined) continue;
      there.push(name);
      values.push(stock.text(value.slice(0, MOST_CHARS)));
    }
    // What grows keeps room for more: a copy has none.
    this.#names = there.slice();
    this.#values = values.slice();
  }

  get(name: Name): string | undefined {
    const at = this.#names.indexOf(name);
    return at === -1 ? undefined : this.#values[at];
  }

  has(name: Name): boolean {
    return this.#names.includes(name);
  }
}

function measureCompressed(exchange: Exchange, bytes: Uint8Array, tools: EvidenceTools): number | undefined {
  const response = findResponse(exchange);
  const crossed = exchange.source.value === 'network';
  const coding = findHeader(response?.headers ?? [], 'content-encoding');
  const isPacked = coding !== undefined && coding.trim().toLowerCase() !== 'identity';
  // Fewer bytes crossed than the body has: something packed it, whatever the headers say.
  const wasPacked = exchange.wireBytes !== undefined && exchange.wireBytes < bytes.length * NEAR_SHARE;
  if (!crossed || isPacked || wasPacked || bytes.length < WORTH_COMPRESSING_BYTES) return undefined;
  return COMPRESSIBLE.test(response?.mimeType ?? '') ? tools.compressedLength(bytes) : undefined;
}

/** A date header of a response, in ms since 1970. */
export const dateOf = (evidence: Evidence | undefined, name: 'date'): number | undefined =>
  readHttpDate(evidence?.responseHeaders.get(name));

/** Longer refusals are pages. */
const REFUSAL_CHARS = 20_000;

/** A refusal that gives its reason: RFC 6750 3.1 (invalid_token, "expired"), or in words. */
function saysExpired(response: ResponsePart | undefined, text: string | undefined): boolean {
  if (response === undefined || (response.status !== 401 && response.status !== 403)) return false;
  const challenge = findHeader(response.headers, 'www-authenticate') ?? '';
  return /expired|invalid_token/i.test(challenge) || /expired/i.test(text?.slice(0, REFUSAL_CHARS) ?? '');
}
