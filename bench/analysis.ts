import { analyse, takeFacts } from '#core/analysis';
import { bytesFromText } from '#core/content';
import { type Diagnosis, diagnoseAll, subjectOf, takeEvidence, WordStock } from '#core/diagnose';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';

// How long the analysis of a capture takes: rows in their context, routes, findings and what they cost, without the reading of
// its bodies. Against JSON.parse of the same capture in the same run, and against itself at twice and four times the size.

const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 5);
const START = Date.UTC(2026, 9, 3);
const KINDS = ['script', 'image', 'fetch', 'image', 'stylesheet', 'image', 'fetch', 'font', 'image', 'image'] as const;
const HOSTS = ['www', 'img', 'api', 'img', 'www', 'img', 'api', 'type', 'img', 'img'] as const;

/** A page of so many exchanges: scripts that ask for scripts, pictures by HTTP/1.1 that queue, calls that fail now and then. */
function captureOf(count: number): string {
  const entries = Array.from({ length: count }, (_, at) => {
    const kind = at === 0 ? 'document' : (KINDS[at % 10] ?? 'image');
    const host = at === 0 ? 'www' : (HOSTS[at % 10] ?? 'img');
    const isOld = host === 'img';
    const parent =
      at === 0
        ? undefined
        : at % 7 === 0
          ? `https://www.cumbrera.example/script/${at - (at % 10)}`
          : 'https://www.cumbrera.example/document/0';
    return {
      pageref: 'p',
      startedDateTime: new Date(START + Math.floor(at * 1.7)).toISOString(),
      request: {
        method: 'GET',
        url: `https://${host}.cumbrera.example/${kind}/${at}`,
        httpVersion: isOld ? 'http/1.1' : 'h2',
        headers: [
          { name: 'accept', value: '*/*' },
          { name: 'cookie', value: 'session=made-up' },
        ],
        queryString: [],
      },
      response: {
        status: kind === 'fetch' && at % 97 === 6 ? 500 : 200,
        httpVersion: isOld ? 'http/1.1' : 'h2',
        headers: [
          { name: 'cache-control', value: at % 3 === 0 ? 'no-cache' : 'max-age=60' },
          { name: 'date', value: new Date(START + at).toUTCString() },
          { name: 'content-length', value: String(900 + (at % 5000)) },
        ],
        content: { mimeType: kind === 'fetch' ? 'application/json' : 'text/plain', size: 900 + (at % 5000) },
        _transferSize: 1100 + (at % 5000),
      },
      timings: {
        blocked: isOld ? at % 60 : 0,
        dns: -1,
        connect: at % 50 === 1 ? 20 : -1,
        ssl: -1,
        send: 0,
        wait: 20 + (at % 90),
        receive: 1 + (at % 30),
      },
      serverIPAddress: '192.0.2.7',
      _resourceType: kind,
      ...(parent === undefined ? {} : { _initiator: { type: 'script', url: parent } }),
    };
  });
  const pages = [
    {
      id: 'p',
      title: 'p',
      startedDateTime: new Date(START).toISOString(),
      pageTimings: { onContentLoad: count, onLoad: count * 1.8 + 200 },
    },
  ];
  return JSON.stringify({ log: { version: '1.2', creator: { name: 'bench', version: '1' }, pages, entries } });
}

function readAll(text: string) {
  const exchanges: Exchange[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (isObject(value)) exchanges.push(normaliseEntry(value, place));
    },
  });
  reader.push(bytesFromText(text));
  return { exchanges, capture: reader.end().capture };
}

const TOOLS = { hash: () => '', compressedLength: () => 0, digest: () => '' };
const median = (values: readonly number[]): number =>
  values.toSorted((a, b) => a - b)[values.length >> 1] ?? Number.NaN;

function timed<T>(run: () => T): { readonly ms: number; readonly result: T } {
  const from = performance.now();
  const result = run();
  return { ms: performance.now() - from, result };
}

let before: number | undefined;
for (const count of (process.env['BENCH_SIZES'] ?? '10000,20000,40000').split(',').map(Number)) {
  const text = captureOf(count);
  const { exchanges, capture } = readAll(text);
  const facts = exchanges.map(takeFacts);
  const evidence: Diagnosis['evidence'] = new Map(
    exchanges.map((one) => [one.index, takeEvidence(one, undefined, TOOLS)]),
  );
  const rounds = Array.from({ length: ROUNDS }, () => {
    const parse = timed(() => JSON.parse(text) as unknown);
    const rows = timed(() => analyse(facts, capture.pages, capture.completeness));
    const found = timed(() =>
      diagnoseAll(subjectOf(rows.result.rows, rows.result.overview, evidence, new WordStock())),
    );
    return { parse: parse.ms, rows: rows.ms, found: found.ms, findings: found.result.findings.length };
  });
  const [parse, rows, found] = [
    median(rounds.map((one) => one.parse)),
    median(rounds.map((one) => one.rows)),
    median(rounds.map((one) => one.found)),
  ];
  const whole = rows + found;
  console.log(
    `${String(count).padStart(6)} exchanges: rows and routes ${rows.toFixed(0)} ms, rules and costs ${found.toFixed(0)} ms (${rounds[0]?.findings} findings), together ${whole.toFixed(0)} ms, ${(whole / parse).toFixed(1)} x JSON.parse${before === undefined ? '' : `, ${(whole / before).toFixed(2)} x half as many`}`,
  );
  before = whole;
}
