import { analyse, type ExchangeRow, takeFacts } from '#core/analysis';
import { type BriefPage, plotPage, tellBrief } from '#core/brief';
import { bytesFromText } from '#core/content';
import type { Finding, RuleId, Severity } from '#core/diagnose';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import type { Exchange, Source } from '#core/model';
import { beginReading } from '#server/diagnose';

/** When made captures begin, by the recording computer's clock. */
export const START = Date.UTC(2026, 9, 3, 9);
export const WWW = 'https://www.cumbrera.example';
export const API = 'https://api.cumbrera.example';
export const STATS = 'https://stats.tallyfox.example';

type Headers = Readonly<Record<string, string>>;

/** An exchange of a made capture. Times in ms, `at` since its page's start; paths are those of the page's host. */
export interface Made {
  readonly url: string;
  readonly at?: number;
  readonly method?: string;
  readonly status?: number;
  readonly kind?: string;
  readonly mime?: string;
  readonly blocked?: number;
  readonly dns?: number;
  /** TCP and TLS together, as HAR counts them. */
  readonly connect?: number;
  readonly ssl?: number;
  readonly wait?: number;
  readonly receive?: number;
  readonly protocol?: string;
  readonly request?: Headers;
  readonly response?: Headers;
  readonly payload?: string;
  readonly body?: string;
  readonly size?: number;
  /** Bytes on the wire, headers included; without it the body's and some for headers. */
  readonly wire?: number;
  readonly failure?: string;
  /** Who asked: an address, or the document where nothing is said. */
  readonly by?: string;
  readonly byScript?: boolean;
  readonly page?: string;
  readonly connection?: string;
  /** No server address: it did not come over a connection. */
  readonly isLocal?: boolean;
  /** Further members of its entry, as recorders have them. */
  readonly extra?: Readonly<Record<string, unknown>>;
}

/** A capture with a known cause, and what is to be said of it. */
export interface Cause {
  readonly name: string;
  readonly exchanges: readonly Made[];
  /** Milestones of its pages in ms, by id; of one page called "p" where only these are given. Without: no page at all. */
  readonly loaded?: number;
  readonly ready?: number;
  readonly pages?: Readonly<
    Record<string, { readonly at?: number; readonly loaded?: number; readonly ready?: number }>
  >;
  readonly must: {
    /** The address at which the route of the first page ends. */
    readonly last?: string;
    /** The addresses on it, in their order. */
    readonly route?: readonly string[];
    readonly sentence?: RegExp;
    readonly finds?: readonly Found[];
    readonly sources?: Readonly<Record<string, Source>>;
    readonly condition?: readonly (readonly [id: string, says: RegExp])[];
  };
  readonly mustNot?: {
    readonly say?: RegExp;
    readonly find?: readonly RuleId[];
    readonly condition?: readonly string[];
  };
}

export interface Found {
  readonly rule: RuleId;
  /** The addresses that it is about. */
  readonly about: readonly string[];
  readonly claims?: RegExp;
  readonly severity?: Severity;
  readonly confidence?: Finding['confidence'];
  /** What of the load it costs, in ms: between these. */
  readonly costs?: readonly [least: number, most: number];
}

const absolute = (url: string): string => (url.startsWith('/') ? WWW + url : url);
const listOf = (headers: Headers = {}) => Object.entries(headers).map(([name, value]) => ({ name, value }));
const HEADER_BYTES = 200;

function entryOf(made: Made, pageStart: number, hasPages: boolean): unknown {
  const { url, status = 200, body, protocol = 'h2', request = {}, response = {} } = made;
  const size = made.size ?? (body === undefined ? 1000 : Buffer.byteLength(body));
  const { blocked = -1, dns = -1, connect = -1, ssl = -1, wait = 20, receive = 5 } = made;
  const hasFailed = status <= 0;
  return {
    ...(hasPages ? { pageref: made.page ?? 'p' } : {}),
    startedDateTime: new Date(START + pageStart + (made.at ?? 0)).toISOString(),
    request: {
      method: made.method ?? 'GET',
      url: absolute(url),
      httpVersion: protocol,
      headers: listOf(request),
      queryString: [],
      cookies: [],
      ...(made.payload === undefined ? {} : { postData: { mimeType: 'application/json', text: made.payload } }),
    },
    response: {
      status,
      statusText: '',
      httpVersion: protocol,
      headers: listOf(response),
      cookies: [],
      redirectURL: '',
      content: {
        mimeType: made.mime ?? 'text/plain',
        size: hasFailed ? 0 : size,
        ...(body === undefined ? {} : { text: body }),
      },
      _transferSize: made.wire ?? (hasFailed ? -1 : size + HEADER_BYTES),
      ...(made.failure === undefined ? {} : { _failureText: made.failure }),
    },
    cache: {},
    timings: hasFailed ? { send: -1, wait: -1, receive: -1 } : { blocked, dns, connect, ssl, send: 0, wait, receive },
    ...(hasFailed ? { time: wait + receive } : {}),
    ...(made.kind === undefined ? {} : { _resourceType: made.kind }),
    ...(made.by === undefined
      ? {}
      : { _initiator: { type: made.byScript === true ? 'script' : 'parser', url: absolute(made.by) } }),
    ...(made.connection === undefined ? {} : { _connectionId: made.connection }),
    ...(made.isLocal === true ? {} : { serverIPAddress: '192.0.2.7' }),
    ...made.extra,
  };
}

export interface Told {
  readonly rows: readonly ExchangeRow[];
  readonly findings: readonly Finding[];
  readonly brief: BriefPage | undefined;
  readonly sentence: string;
  readonly condition: readonly { readonly id: string; readonly sentence: string }[];
  readonly urlOf: (index: number) => string;
}

/** Writes a made capture as a file and reads it as the app does. */
export function tell({ exchanges, loaded, ready, pages: given }: Cause): Told {
  const timed = loaded !== undefined || ready !== undefined;
  const pages =
    given ??
    (timed ? { p: { ...(loaded === undefined ? {} : { loaded }), ...(ready === undefined ? {} : { ready }) } } : {});
  const log = {
    version: '1.2',
    creator: { name: 'made', version: '1' },
    pages: Object.entries(pages).map(([id, page]) => ({
      id,
      title: id,
      startedDateTime: new Date(START + (page.at ?? 0)).toISOString(),
      pageTimings: { onContentLoad: page.ready ?? -1, onLoad: page.loaded ?? -1 },
    })),
    entries: exchanges.map((made) => entryOf(made, pages[made.page ?? 'p']?.at ?? 0, Object.keys(pages).length > 0)),
  };
  const read: Exchange[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (isObject(value)) read.push(normaliseEntry(value, place));
    },
  });
  reader.push(bytesFromText(JSON.stringify({ log })));
  const { capture } = reader.end();
  const diagnoser = beginReading(analyse(read.map(takeFacts), capture.pages, capture.completeness).rows);
  for (const exchange of read) diagnoser.add(exchange);
  const { rows, overview, found } = diagnoser.end(capture.pages, capture.completeness);
  const [page] = overview.pages;
  const own = rows.filter(({ pageId }) => pageId === page?.id);
  const brief = plotPage(own, page);
  return {
    rows,
    findings: found.findings,
    brief,
    sentence: brief === undefined ? overview.sentence : tellBrief(brief, new Map(own.map((row) => [row.index, row]))),
    condition: overview.condition,
    urlOf: (index) => (rows[index]?.url ?? '').replace(WWW, ''),
  };
}

/** The usual exchanges. */
export const page = (more: Partial<Made> = {}): Made => ({
  url: '/huts',
  kind: 'document',
  mime: 'text/html',
  wait: 60,
  receive: 20,
  ...more,
});
const of =
  (kind: string, mime: string) =>
  (url: string, at: number, more: Partial<Made> = {}): Made => ({ url, at, kind, mime, by: '/huts', ...more });
export const image = of('image', 'image/webp');
export const style = of('stylesheet', 'text/css');
export const code = of('script', 'text/javascript');
export const font = of('font', 'font/woff2');
export const call = of('fetch', 'application/json');
/** A request that no response reached the page of. */
export const failed = (url: string, at: number, failure: string, more: Partial<Made> = {}): Made => ({
  ...call(url, at),
  status: -1,
  failure,
  ...more,
});
export const times = (count: number, make: (at: number) => Made): readonly Made[] =>
  Array.from({ length: count }, (_, at) => make(at));

/** A load of 600 ms, DOM ready at 300. */
export const loadOf = (
  name: string,
  exchanges: readonly Made[],
  must: Cause['must'],
  mustNot: Cause['mustNot'] = {},
): Cause => ({ name, loaded: 600, ready: 300, exchanges, must, mustNot });

/** What happens beside a load that waits for a picture, and that it must not be told to have waited for. */
export const besideLoad = (
  name: string,
  exchanges: readonly Made[],
  finds: readonly Found[],
  mustNot: Cause['mustNot'] = {},
): Cause =>
  loadOf(
    name,
    [page(), image('/ridge.webp', 100, { wait: 480 }), ...exchanges],
    { last: '/ridge.webp', finds },
    mustNot,
  );
