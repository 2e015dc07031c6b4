import { createHash } from 'node:crypto';
import { rereadText } from '#core/har';
import { readHttpDate } from '#core/http';
import { type Exchange, findHeader, type NameValue } from '#core/model';
import {
  type Asked,
  type ChangedResponse,
  type Given,
  giveCaptured,
  type LocalAddresses,
  mayHaveBody,
  moveInstants,
  type RewriteTools,
  rewriteBody,
  rewriteHeaders,
  withChange,
} from '#core/rehearse';
import { inflateWithZlib } from '../inflate';
import { KeptLately } from './kept-lately';
import { chooseCoding, packBytes } from './pack';
import type { Recording } from './recording';

/** A response as it goes out. */
export type Prepared =
  | {
      readonly type: 'response';
      readonly status: number;
      readonly statusText: string;
      /** Names and values by turns, values one character a byte. */
      readonly headers: string[];
      /** In the coding that the client takes. */
      readonly body: Uint8Array;
      /** As the client has it once it is unpacked. */
      readonly plain: Uint8Array;
      readonly breaksOff: boolean;
      readonly staysOpen: boolean;
      readonly remarks: readonly string[];
    }
  | { readonly type: 'none'; readonly how: 'reset' | 'silence'; readonly remarks: readonly string[] };

/** Tells a client what no header of the capture tells. */
export const NOTE_HEADER = 'Trazado-Rehearsal';

export interface PrepareOptions {
  readonly recording: Recording;
  readonly addresses: LocalAddresses;
  readonly rewrites: boolean;
  readonly changes: ReadonlyMap<number, ChangedResponse>;
}

/** Makes responses ready to go out: as captured, changed, with the rehearsal's addresses, packed. */
export class Preparer {
  readonly #options: PrepareOptions;
  readonly #byUrl = new Map<string, number>();
  readonly #kept = new KeptLately<string, Prepared>(KEPT_BYTES);

  constructor(options: PrepareOptions) {
    this.#options = options;
    const { recording } = options;
    for (const { method, url, index } of recording.requests)
      if (method === 'GET' && !this.#byUrl.has(url)) this.#byUrl.set(url, index);
  }

  /** What the rehearsal changes of an exchange's response. */
  changeOf({ index }: Exchange): ChangedResponse | undefined {
    return this.#options.changes.get(index);
  }

  /** The captured response of an exchange, for a request that it fits. */
  captured(asked: Asked, exchange: Exchange): Prepared {
    const said = DECIDING.map((name) => findHeader(asked.headers, name) ?? '');
    // Instants are as of now: what is kept is made anew each hour.
    const hour = Math.floor(Date.now() / 3_600_000);
    const key = JSON.stringify([exchange.index, asked.method, hour, ...said]);
    const sizeOf = (made: Prepared): number =>
      made.type === 'none' ? 100 : 1000 + made.body.length + made.plain.length;
    return this.#kept.get(key, () => this.#make(asked, exchange), sizeOf);
  }

  #make(asked: Asked, exchange: Exchange): Prepared {
    const change = this.changeOf(exchange);
    const given = giveCaptured(asked, exchange, inflateWithZlib);
    return this.prepare(asked, change === undefined ? given : withChange(given, change), exchange);
  }

  /** @param of the exchange that it is of, where it was captured */
  prepare(asked: Asked, given: Given, of?: Exchange): Prepared {
    if (given.type === 'none') return given;
    const { headers, body } = this.#options.rewrites ? this.#rewritten(given, of) : given;
    const accepted = findHeader(asked.headers, 'accept-encoding');
    const isHead = asked.method === 'HEAD';
    const isMeasured = !isHead || given.headBytes === undefined;
    const coding = body.length === 0 && isMeasured ? undefined : chooseCoding(given.coding, accepted);
    const packed = coding === undefined || body.length === 0 ? body : packBytes(body, coding);
    const lines = coding === undefined ? headers : [...headers, { name: 'Content-Encoding', value: coding }];
    const headBytes = isMeasured ? packed.length : coding === given.coding ? given.headBytes : 'unknown';
    const isEmpty = !mayHaveBody(asked.method, given.status);
    const { status, statusText, breaksOff, staysOpen, remarks } = given;
    const noted = remarks.length === 0 ? lines : [...lines, { name: NOTE_HEADER, value: remarks.join('; ') }];
    const none = new Uint8Array();
    return {
      type: 'response',
      status,
      statusText: statusText.replace(/[^\x20-\x7e\xa0-\xff]/g, ''),
      headers: flat(isHead && typeof headBytes === 'number' ? [...noted, lengthOf(headBytes)] : noted),
      body: isEmpty ? none : packed,
      plain: isEmpty ? none : body,
      breaksOff,
      staysOpen,
      remarks,
    };
  }

  #rewritten(
    { headers, body, mimeType }: Extract<Given, { type: 'response' }>,
    of: Exchange | undefined,
  ): { headers: readonly NameValue[]; body: Uint8Array } {
    const { addresses } = this.#options;
    const made = rewriteBody(body, mimeType, addresses, {
      hashOf,
      digestsOf: (named, integrity) => this.#digestsOf(resolved(named, of?.request.url), integrity),
    });
    const isChanged = made.bytes !== body;
    const rewritten = rewriteHeaders(headers, addresses, { hashes: made.hashes, isChanged });
    const capturedAt = readHttpDate(findHeader(headers, 'date') ?? '') ?? of?.startedAt;
    const sinceMs = of === undefined || capturedAt === undefined ? 0 : Date.now() - capturedAt;
    return { headers: moveInstants(rewritten, sinceMs), body: made.bytes };
  }

  /** What a page demands of a script or style is demanded of it as it is rewritten; what did not hold before does not now. */
  #digestsOf(url: string | undefined, integrity: string): string | undefined {
    const index = url === undefined ? undefined : this.#byUrl.get(url.replace(/#.*$/s, ''));
    if (index === undefined) return undefined;
    const exchange = this.#options.recording.read(index);
    const given = giveCaptured({ ...PLAIN, path: '' }, exchange, inflateWithZlib);
    // A page is given no digest, and one that demanded its own would be asked for without end.
    if (given.type === 'none' || /html/i.test(given.mimeType ?? '')) return undefined;
    const held = integrity.split(/\s+/).flatMap((one) => {
      const algorithm = /^(sha256|sha384|sha512)-/.exec(one)?.[1] as 'sha256' | 'sha384' | 'sha512' | undefined;
      return algorithm !== undefined && hashOf(algorithm, given.body) === one.replace(/\?.*$/, '') ? [algorithm] : [];
    });
    if (held.length === 0) return undefined;
    const { body } = this.#rewritten(given, exchange);
    return held.map((algorithm) => hashOf(algorithm, body)).join(' ');
  }
}

const KEPT_BYTES = 48 * 1024 * 1024;
/** Request headers that decide what is given of a captured response. */
const DECIDING = ['accept-encoding', 'range', 'if-range', 'if-none-match', 'if-modified-since'];

const PLAIN = { method: 'GET', origin: undefined, query: '', headers: [], body: new Uint8Array() };

const hashOf: RewriteTools['hashOf'] = (algorithm, bytes) =>
  `${algorithm}-${createHash(algorithm).update(bytes).digest('base64')}`;

function resolved(url: string, base: string | undefined): string | undefined {
  try {
    return new URL(url, base).href;
  } catch {
    return undefined;
  }
}

const lengthOf = (bytes: number): NameValue => ({ name: 'Content-Length', value: String(bytes) });

/** What no header may have: it would end the line (RFC 9110 5.5). */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is taken out.
const BREAKS = /[\u0000-\u0008\u000a-\u001f\u007f]/g;

/** Values as bytes, one to a character: UTF-8, which browsers record as windows-1252. */
const flat = (headers: readonly NameValue[]): string[] =>
  headers.flatMap(({ name, value }) => [name, bytesOf(value.replace(BREAKS, ' '))]);

const bytesOf = (value: string): string => Buffer.from(rereadText(value) ?? value, 'utf8').toString('latin1');
