import { createHash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { analyse, takeFacts } from '../../analysis';
import { bytesFromText } from '../../content';
import { type JsonObject, normaliseEntry, normalisePage } from '../../har';
import {
  diagnoseAll,
  type Evidence,
  type Finding,
  type FoundInCapture,
  ScriptWords,
  subjectOf,
  takeEvidence,
} from '../index';

/** An exchange of a made capture, as far as a rule looks at it. Times in ms since the page's start. */
export interface Sketch {
  readonly url?: string;
  readonly at?: number;
  readonly method?: string;
  readonly status?: number;
  readonly kind?: string;
  readonly wait?: number;
  readonly download?: number;
  readonly blocked?: number;
  readonly connect?: number;
  /** Its recorder timed what was received alone. */
  readonly isUntimed?: boolean;
  readonly request?: Readonly<Record<string, string>>;
  readonly response?: Readonly<Record<string, string>>;
  readonly body?: string;
  readonly type?: string;
  readonly size?: number;
  readonly wire?: number;
  readonly protocol?: string;
  readonly failure?: string;
  readonly page?: string;
  readonly by?: string;
  readonly messages?: readonly { readonly type: string; readonly opcode: number; readonly data: string }[];
}

interface Timings {
  readonly onContentLoad?: number;
  readonly onLoad?: number;
}

export const START = Date.UTC(2026, 9, 3, 9);
const HOST = 'https://www.cumbrera.example';
const TOOLS = {
  hash: (bytes: Uint8Array) => Buffer.from(bytes).toString('base64'),
  compressedLength: (bytes: Uint8Array) => gzipSync(bytes).length,
  digest: (algorithm: string, bytes: Uint8Array) => createHash(algorithm).update(bytes).digest('base64'),
};
const listOf = (headers: Readonly<Record<string, string>> = {}) =>
  Object.entries(headers).map(([name, value]) => ({ name, value }));

function entryOf(sketch: Sketch): JsonObject {
  const { url = '/', body } = sketch;
  return {
    pageref: sketch.page ?? 'p',
    startedDateTime: new Date(START + (sketch.at ?? 0)).toISOString(),
    request: {
      method: sketch.method ?? 'GET',
      url: url.startsWith('/') ? HOST + url : url,
      headers: listOf(sketch.request),
      httpVersion: sketch.protocol ?? 'h2',
    },
    response: {
      status: sketch.status ?? 200,
      httpVersion: sketch.protocol ?? 'h2',
      headers: listOf(sketch.response),
      content: {
        mimeType: sketch.type ?? 'text/plain',
        ...(body === undefined ? {} : { text: body }),
        size: sketch.size ?? body?.length ?? 100,
      },
      _transferSize: sketch.wire ?? 500,
      ...(sketch.failure === undefined ? {} : { _failureText: sketch.failure }),
    },
    timings: sketch.isUntimed
      ? { send: -1, wait: -1, receive: 3 }
      : {
          blocked: sketch.blocked ?? 0,
          connect: sketch.connect ?? -1,
          send: 0,
          wait: sketch.wait ?? 20,
          receive: sketch.download ?? 5,
        },
    ...(sketch.kind === undefined ? {} : { _resourceType: sketch.kind }),
    ...(sketch.by === undefined ? {} : { _initiator: { type: 'parser', url: HOST + sketch.by } }),
    ...(sketch.messages === undefined ? {} : { _webSocketMessages: sketch.messages }),
    serverIPAddress: '127.0.0.1',
  } as unknown as JsonObject;
}

/** What the rules find in a made capture as a whole. */
export const findingsOf = (sketches: readonly Sketch[], timings?: Timings): readonly Finding[] =>
  foundIn(sketches, timings).findings;

/** What the rules find in a made capture, and in each of its pages. @param timings when each of its pages was ready and loaded, in ms */
export function foundIn(sketches: readonly Sketch[], timings: Timings = {}): FoundInCapture {
  const exchanges = sketches.map((sketch, place) => normaliseEntry(entryOf(sketch), place));
  const ids = [...new Set(sketches.map(({ page }) => page ?? 'p'))];
  const pages = ids.map((id, place) =>
    normalisePage(
      {
        id,
        title: id,
        startedDateTime: new Date(START + 60_000 * ids.indexOf(id)).toISOString(),
        pageTimings: timings,
      } as unknown as JsonObject,
      place,
    ),
  );
  const { rows, overview } = analyse(exchanges.map(takeFacts), pages, { type: 'whole' });
  const words = new ScriptWords();
  const evidence = new Map<Evidence['index'], Evidence>(
    exchanges.map((exchange, at) => {
      const text = sketches[at]?.body;
      const isJson = sketches[at]?.type === 'application/json';
      const body = text === undefined ? undefined : { bytes: bytesFromText(text), hash: text, text, isJson };
      if (text !== undefined && !isJson) words.add(text);
      return [exchange.index, takeEvidence(exchange, body, TOOLS)];
    }),
  );
  return diagnoseAll(subjectOf(rows, overview, evidence, words));
}

export const DOCUMENT: Sketch = { url: '/huts', kind: 'document', type: 'text/html', at: 0 };
export const jwt = (exp: number): string =>
  `Bearer ${[{ alg: 'HS256' }, { exp }].map((part) => Buffer.from(JSON.stringify(part)).toString('base64url')).join('.')}.x`;
export const image = (at: number, more: Partial<Sketch> = {}): Sketch => ({
  url: `/photos/${at}.webp`,
  kind: 'image',
  type: 'image/webp',
  at,
  ...more,
});
export const call = (at: number, more: Partial<Sketch> = {}): Sketch => ({
  url: `/api/beds/${at}`,
  kind: 'fetch',
  type: 'application/json',
  at,
  ...more,
});
export const many = (count: number, make: (at: number) => Sketch): Sketch[] =>
  Array.from({ length: count }, (_, at) => make(at));
