import { Session } from 'node:inspector/promises';
import { analyse, takeFacts } from '#core/analysis';
import { WhatIf } from '#core/brief';
import { foretell, takeVisitItem, type VisitItem } from '#core/cache';
import { type ComparedLoad, compareSides, comparisonLines, takeTraits } from '#core/compare';
import { bytesFromText } from '#core/content';
import { findingsOn } from '#core/diagnose';
import { HarReader, isObject, type Json, type JsonObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { beginReading } from '#server/diagnose';
import { captureOf, START } from './made';

// Which functions take longer by more than a capture grows, for captures of many shapes: what one shape hides (a walk that
// ends at its first step, because the document comes first) another one shows. Each function is measured against itself in a
// capture of a quarter of the size, in the same run; at four times the size, what grows as its square takes 16 x as long.
// "npm run bench:shapes -- NAME" for those with that in their name; "'' 0 2" for every second one.

interface Har {
  readonly log: { readonly pages: readonly JsonObject[]; readonly entries: readonly JsonObject[] };
}
interface Made {
  readonly pages: readonly JsonObject[];
  readonly entries: readonly JsonObject[];
}
type Shape = (made: Made) => Made;

const merge = (own: Json | undefined, more: Json): Json =>
  isObject(own) && isObject(more)
    ? Object.fromEntries([
        ...Object.entries(own),
        ...Object.entries(more).map(([name, value]) => [name, merge(own[name], value)]),
      ])
    : more;

/** Every exchange with something else in it. */
const each =
  (more: (at: number, entry: JsonObject) => JsonObject): Shape =>
  ({ pages, entries }) => ({ pages, entries: entries.map((entry, at) => merge(entry, more(at, entry)) as JsonObject) });

const all =
  (...shapes: readonly Shape[]): Shape =>
  (made) =>
    shapes.reduce((done, shape) => shape(done), made);

const header = (name: string, value: string): JsonObject => ({ name, value });
const asked = (...headers: readonly JsonObject[]): JsonObject => ({ request: { headers: [...headers] } });
const answered = (status: number, ...headers: readonly JsonObject[]): JsonObject => ({
  response: { status, headers: [...headers] },
});
const body = (text: string, mimeType: string): JsonObject => ({
  response: { content: { text, mimeType, size: text.length } },
});
const at = (ms: number): string => new Date(START + ms).toISOString();
const WWW = 'https://www.cumbrera.example';
const API = 'https://api.cumbrera.example';
const kind = (_resourceType: string): JsonObject => ({ _resourceType });

const SHAPES: Readonly<Record<string, Shape>> = {
  'as made': (made) => made,
  'no document': each(() => kind('fetch')),
  'no page': ({ entries }) => ({ pages: [], entries: entries.map(({ pageref: _, ...rest }) => rest) }),
  'no initiators': each(() => ({ _initiator: null })),
  'no kinds': each(() => ({ _resourceType: null, _initiator: null })),
  'a page for each': ({ entries }) => ({
    pages: entries.map((_, one) => ({
      id: `p${one}`,
      title: 'x',
      startedDateTime: at(one * 2),
      pageTimings: { onLoad: 90 },
    })),
    entries: entries.map((entry, one) => ({ ...entry, pageref: `p${one}` })),
  }),
  'one address': each(() => ({ request: { url: `${API}/huts` }, ...kind('fetch') })),
  'one address, posted': each((one) => ({
    request: {
      method: 'POST',
      url: `${API}/huts`,
      postData: { mimeType: 'application/json', text: `{"hut":${one}}` },
    },
    ...kind('fetch'),
  })),
  'one address, the same posted': each(() => ({
    request: { method: 'POST', url: `${API}/huts`, postData: { mimeType: 'application/json', text: '{"hut":1}' } },
    ...kind('fetch'),
  })),
  'one address, failing': each(() => ({ request: { url: `${API}/huts` }, ...answered(503), ...kind('fetch') })),
  'one address, now and then': each((one) => ({
    request: { url: `${API}/huts` },
    ...answered(one % 2 === 0 ? 503 : 200),
    ...kind('fetch'),
  })),
  'a host for each': each((one) => ({ request: { url: `https://h${one}.cumbrera.example/` } })),
  'one start': each(() => ({ startedDateTime: at(0) })),
  'no starts': each(() => ({ startedDateTime: '' })),
  'no times': each(() => ({ timings: null, time: -1 })),
  'one after another': each((one) => ({ startedDateTime: at(one * 300), timings: { blocked: 0 } })),
  backwards: ({ pages, entries }) => ({ pages, entries: entries.toReversed() }),
  'each asked for by the one before': each((one) => ({
    startedDateTime: at(one * 200),
    request: { url: `${WWW}/${one}.js` },
    _initiator: { type: 'script', url: `${WWW}/${one - 1}.js` },
    ...kind('script'),
  })),
  'deep stacks': each((one) => ({
    _initiator: {
      type: 'script',
      stack: {
        callFrames: [1, 2, 3].map((n) => ({ url: `${WWW}/script/${Math.max(0, one - n * 10)}`, lineNumber: n })),
      },
    },
  })),
  'no answer': each(() => ({ response: { status: 0, headers: [], _error: 'net::ERR_FAILED' } })),
  'calls without an answer to another origin': each(() => ({
    request: { url: `${API}/x`, headers: [] },
    response: { status: 0, headers: [] },
    ...kind('fetch'),
  })),
  'the same, no document': each((one) => ({
    request: { url: `${API}/x/${one}`, headers: [] },
    response: { status: 0, headers: [] },
    _initiator: null,
    ...kind('fetch'),
  })),
  'blocked by the client': each(() => ({ response: { status: 0, headers: [], _error: 'net::ERR_BLOCKED_BY_CLIENT' } })),
  redirects: each((one) => ({
    request: { url: `${WWW}/${one}` },
    response: { status: 302, redirectURL: `/${one + 1}`, headers: [header('location', `/${one + 1}`)] },
  })),
  'redirects to one': each((one) => ({
    request: { url: `${WWW}/${one}` },
    response: { status: 302, redirectURL: '/x', headers: [header('location', '/x')] },
  })),
  'a redirect again and again': each(() => ({
    request: { url: `${WWW}/x` },
    response: { status: 302, redirectURL: '/x', headers: [header('location', '/x')] },
  })),
  preflights: each((one) => ({
    request:
      one % 2 === 0
        ? { url: `${API}/${one}`, method: 'OPTIONS', headers: [header('access-control-request-method', 'PUT')] }
        : { url: `${API}/${one - 1}`, method: 'PUT', headers: [header('origin', WWW)] },
    ...kind(one % 2 === 0 ? 'preflight' : 'fetch'),
  })),
  'preflights of one address': each((one) => ({
    request:
      one % 2 === 0
        ? { url: `${API}/x`, method: 'OPTIONS', headers: [header('access-control-request-method', 'PUT')] }
        : { url: `${API}/x`, method: 'PUT', headers: [header('origin', WWW)] },
    ...kind(one % 2 === 0 ? 'preflight' : 'fetch'),
  })),
  'sign-ins refused': each(
    (one) =>
      merge(
        asked(header('authorization', `Bearer t${one}`)),
        answered(401, header('www-authenticate', 'Bearer')),
      ) as JsonObject,
  ),
  'cookies set by each': each((one) => answered(200, header('set-cookie', `c${one}=${one}; Path=/`))),
  'one cookie set by each': each((one) => answered(200, header('set-cookie', `c=${one}; Path=/`))),
  'cookies sent, each another': each((one) => asked(header('cookie', `c${one}=${one}`))),
  'cookies set and sent': each(
    (one) =>
      merge(
        answered(200, header('set-cookie', `c${one}=v${one}v${one}`)),
        asked(header('cookie', `c${one - 1}=v${one - 1}v${one - 1}`)),
      ) as JsonObject,
  ),
  'varying by cookie': each(
    (one) =>
      merge(
        answered(200, header('vary', 'cookie'), header('set-cookie', `c${one}=1`)),
        asked(header('cookie', `c${one}=1`)),
      ) as JsonObject,
  ),
  'not changed': each(() => answered(304, header('etag', '"x"'))),
  'not changed, one address': each((one) => ({
    ...answered(one === 0 ? 200 : 304, header('etag', '"x"')),
    ...(merge(asked(header('if-none-match', '"x"')), { request: { url: `${WWW}/x` } }) as JsonObject),
    response: { status: one === 0 ? 200 : 304, headers: [header('etag', '"x"')] },
  })),
  'from the cache': each(() => ({ _fromCache: 'disk' })),
  'by a service worker': each((one) => ({ _fetchedViaServiceWorker: one % 2 === 0 })),
  sockets: each((one) => ({
    request: { url: `wss://api.cumbrera.example/${one}` },
    response: { status: 101 },
    _webSocketMessages: [{ type: 'send', time: 1, opcode: 1, data: `{"n":${one}}` }],
    ...kind('websocket'),
  })),
  'sockets of one address': each((one) => ({
    request: { url: 'wss://api.cumbrera.example/x' },
    response: { status: 101 },
    _webSocketMessages: [{ type: 'send', time: 1, opcode: 1, data: `{"n":${one}}` }],
    ...kind('websocket'),
  })),
  streams: each((one) => ({
    ...body('data: x\n\n', 'text/event-stream'),
    ...kind('eventsource'),
    startedDateTime: at(one),
  })),
  'one connection': each(() => ({ connection: '7' })),
  'a connection for each': each((one) => ({ connection: String(one), timings: { connect: 20, dns: 5, ssl: 10 } })),
  'HTTP/1.1 to one host': each((one) => ({
    request: { url: `${WWW}/${one}.png`, httpVersion: 'http/1.1' },
    response: { httpVersion: 'http/1.1' },
    timings: { blocked: one },
    ...kind('image'),
  })),
  'pushed, or asked for early': each(() => ({ _priority: 'High' })),
  'JSON that carries ids': each((one) => ({
    request: { url: `${API}/huts?after=cursor-of-${one}-x` },
    ...body(`{"next":"cursor-of-${one + 1}-x"}`, 'application/json'),
    ...kind('fetch'),
  })),
  'the same body': each(() => body('{"a":1,"b":"the same text in every response of the capture"}', 'application/json')),
  'large bodies, the same': each(() => body('x = "the same text"; '.repeat(60), 'text/javascript')),
  GraphQL: each((one) => ({
    request: {
      method: 'POST',
      url: `${API}/graphql`,
      postData: { mimeType: 'application/json', text: `{"operationName":"q${one}","query":"query q${one} {huts}"}` },
    },
    ...body('{"errors":[{"message":"no"}]}', 'application/json'),
    ...kind('fetch'),
  })),
  'scripts that name each other': each((one) => ({
    request: { url: `${WWW}/${one}.js` },
    ...body(`import("/${one + 1}.js");fetch("/api/${one}")`, 'text/javascript'),
    ...kind('script'),
    _initiator: null,
  })),
  documents: each((one) => ({
    request: { url: `${WWW}/${one}` },
    ...body(`<a href="/${one + 1}">`, 'text/html'),
    _isNavigationRequest: true,
    ...kind('document'),
  })),
  'lost documents': each((one) => ({
    ...kind('document'),
    response: { status: 0, headers: [] },
    request: { url: `${WWW}/${one}` },
  })),
  'mixed content': each((one) => ({ request: { url: `http://h.cumbrera.example/${one}` } })),
  ranges: each((one) => ({
    request: { url: `${WWW}/film.mp4`, headers: [header('range', `bytes=${one * 100}-${one * 100 + 99}`)] },
    ...answered(206, header('content-range', `bytes ${one * 100}-${one * 100 + 99}/9999999`)),
    ...kind('media'),
  })),
  'Link headers': each((one) => answered(200, header('link', `</${one}.css>; rel=preload; as=style`))),
  'server timing': each((one) => answered(200, header('server-timing', `db${one};dur=${one % 50}`))),
  'CORS, each allowed': each(
    (one) =>
      merge(
        { request: { url: `${API}/${one}`, headers: [header('origin', WWW)] } },
        answered(200, header('access-control-allow-origin', WWW)),
      ) as JsonObject,
  ),
  'CORS, none allowed': each(
    (one) =>
      merge(
        { request: { url: `${API}/${one}`, headers: [header('origin', WWW), header('sec-fetch-mode', 'cors')] } },
        answered(200),
      ) as JsonObject,
  ),
  'no page, no document, no initiators': all(
    ({ entries }) => ({ pages: [], entries: entries.map(({ pageref: _, ...rest }) => rest) }),
    each(() => ({ _initiator: null, ...kind('fetch') })),
  ),
};

interface Read {
  readonly load: ComparedLoad;
  readonly visits: readonly VisitItem[];
}

function read(made: Made): Read {
  const exchanges: Exchange[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (isObject(value)) exchanges.push(normaliseEntry(value, place));
    },
  });
  reader.push(bytesFromText(JSON.stringify({ log: { version: '1.2', ...made } })));
  const { capture } = reader.end();
  const diagnoser = beginReading(analyse(exchanges.map(takeFacts), capture.pages, capture.completeness).rows);
  for (const exchange of exchanges) diagnoser.add(exchange);
  const { rows, overview, found } = diagnoser.end(capture.pages, capture.completeness);
  const page = overview.pages.length === 1 ? overview.pages[0] : undefined;
  return {
    load: {
      name: 'made',
      page,
      rows,
      traits: exchanges.map((exchange) => takeTraits(exchange, String(exchange.index % 7))),
      findings: findingsOn(found, page?.id),
      foretold: undefined,
    },
    visits: exchanges.map((exchange, one) => takeVisitItem(exchange, rows[one]?.preflightFor)),
  };
}

/** The same load, in which every third response took 40 ms longer. */
const slowed = (load: ComparedLoad): ComparedLoad => ({
  ...load,
  rows: load.rows.map((row) =>
    row.index % 3 !== 0 || row.timeMs === undefined
      ? row
      : { ...row, timeMs: row.timeMs + 40, phases: { ...row.phases, waitMs: (row.phases.waitMs ?? 0) + 40 } },
  ),
});

/** Everything that is computed of a whole capture. */
function compute(made: Made): void {
  const { load, visits } = read(made);
  const [a, b] = [[load], [slowed(load)]] as const;
  comparisonLines({ a, b, compared: compareSides(a, b), isSame: false });
  foretell(visits, 3600);
  new WhatIf(load.rows, load.page).ask({ subject: 'all', kind: 'from-cache', waitMs: 50 });
}

/** How long each function took with what it called, in ms. */
async function profiled(run: () => void): Promise<ReadonlyMap<string, number>> {
  const session = new Session();
  session.connect();
  await session.post('Profiler.enable');
  await session.post('Profiler.start');
  run();
  const { profile } = await session.post('Profiler.stop');
  session.disconnect();
  const ownMs = new Map<number, number>();
  profile.samples?.forEach((id, one) => {
    ownMs.set(id, (ownMs.get(id) ?? 0) + (profile.timeDeltas?.[one] ?? 0) / 1000);
  });
  const nodes = new Map(profile.nodes.map((node) => [node.id, node]));
  const wholeMs = new Map<string, number>();
  const addUp = (id: number, above: ReadonlySet<string>): number => {
    const node = nodes.get(id);
    if (node === undefined) return 0;
    const { functionName, url, lineNumber } = node.callFrame;
    const name = `${functionName} ${url.split('/').slice(-2).join('/')}:${lineNumber + 1}`;
    const within = new Set([...above, name]);
    const ms = (node.children ?? []).reduce((sum, child) => sum + addUp(child, within), ownMs.get(id) ?? 0);
    if (!above.has(name)) wholeMs.set(name, (wholeMs.get(name) ?? 0) + ms);
    return ms;
  };
  addUp(profile.nodes[0]?.id ?? 1, new Set());
  return wholeMs;
}

const TIMES = 4;
/** So many times as long for four times as much is more than n log n and a machine's whims. */
const WANTED = 12;
/** What takes less is not told from the machine's whims. */
const LEAST_MS = 250;
const LEAST = Number(process.env['BENCH_EXCHANGES'] ?? 5000);
const [only = '', from = '0', step = '1'] = process.argv.slice(2);
let worse = 0;
for (const [place, [name, shape]] of Object.entries(SHAPES).entries()) {
  if (!name.includes(only) || place % Number(step) !== Number(from)) continue;
  const makeOf = (size: number): Made => shape((JSON.parse(captureOf(size)) as Har).log);
  const [few, many] = [makeOf(LEAST), makeOf(LEAST * TIMES)];
  const fewMs = await profiled(() => compute(few));
  const since = performance.now();
  const manyMs = await profiled(() => compute(many));
  console.log(`${name}: ${((performance.now() - since) / 1000).toFixed(1)} s`);
  for (const [of, ms] of manyMs) {
    const base = Math.max(fewMs.get(of) ?? 0, LEAST_MS / WANTED);
    if (ms < LEAST_MS || ms / base < WANTED || !/ [a-z-]+\/[a-z-]+\.ts:/.test(of) || of.includes('bench/')) continue;
    worse++;
    console.log(`  WORSE ${of}: ${base.toFixed(0)} ms, with ${TIMES} times as much ${ms.toFixed(0)} ms`);
  }
}
console.log(`${worse} functions grow worse than their captures (wanted: 0).`);
