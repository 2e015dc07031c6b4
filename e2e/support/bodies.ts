import { readFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';

// A capture with a body of every kind, kind ones and hostile ones, all made up.

interface Made {
  readonly url?: string;
  readonly type: string;
  readonly body: string | Buffer;
  readonly request?: Record<string, unknown>;
  readonly response?: Record<string, unknown>;
}

const huts = Array.from({ length: 40 }, (_, at) => ({
  name: `Hut ${at}`,
  beds: (at * 7) % 13,
  at: { lat: 42 + at / 100, lon: 0.5 },
  changed: 1759482000 + at * 3600,
  note: at === 33 ? 'the needle in the hay' : '',
}));

/** A PDF of one empty page: readers find its objects without a table of places. */
const PDF = `%PDF-1.4
1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj
2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj
3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 200]>>endobj
trailer<</Root 1 0 R>>
%%EOF`;

/** A second of silence (RIFF WAVE, 8 bit, 8000 samples). */
function silence(): Buffer {
  const header = Buffer.alloc(44);
  header.write('RIFF', 0);
  header.writeUInt32LE(36 + 8000, 4);
  header.write('WAVEfmt ', 8);
  header.writeUInt32LE(16, 16);
  header.writeUInt16LE(1, 20);
  header.writeUInt16LE(1, 22);
  header.writeUInt32LE(8000, 24);
  header.writeUInt32LE(8000, 28);
  header.writeUInt16LE(1, 32);
  header.writeUInt16LE(8, 34);
  header.write('data', 36);
  header.writeUInt32LE(8000, 40);
  return Buffer.concat([header, Buffer.alloc(8000, 128)]);
}

/** The demo's own font, from its own recording. */
function demoFont(): Buffer {
  const capture = JSON.parse(
    readFileSync(new URL('../../demo/captures/alba-norte-first-visit.har', import.meta.url), 'utf8'),
  ) as { log: { entries: { request: { url: string }; response: { content: { text: string } } }[] } };
  const found = capture.log.entries.find(({ request }) => request.url.endsWith('overland-400.ttf'));
  return Buffer.from(found?.response.content.text ?? '', 'base64');
}

const MIXED = [
  '{"data":{"hut":{"name":"Alba Norte"}},"hasNext":true}',
  '{"incremental":[{"path":["hut"],"data":{"beds":24}}],"hasNext":false}',
]
  .map((part) => `--q\r\nContent-Type: application/json\r\n\r\n${part}\r\n`)
  .join('');

export const MADE = {
  json: { type: 'application/json', body: JSON.stringify({ huts, total: 40 }) },
  script: {
    type: 'text/javascript',
    body: 'const free=e=>{let n=0;for(const b of e.beds)n+=b.free?1:0;return n};export{free};',
  },
  page: {
    type: 'text/html',
    body: '<h1>Alba Norte</h1><script>top.hurt=1;fetch("/api/captures")</script><p onclick="top.hurt=1">beds</p>',
  },
  font: { type: 'font/ttf', body: demoFont() },
  sound: { type: 'audio/wav', body: silence() },
  pdf: { type: 'application/pdf', body: PDF },
  bytes: { type: 'application/octet-stream', body: Buffer.from([0, 1, 2, 0x41, 0x42, 0xff]) },
  lines: { type: 'application/x-ndjson', body: '{"level":"info"}\n{"level":"warn","hut":{"name":"Alba"}}\n' },
  events: { type: 'text/event-stream', body: 'event: beds\nid: 7\ndata: {"free":3}\n\ndata: plain\n\n' },
  mixed: { type: 'multipart/mixed; boundary=q', body: `${MIXED}--q--` },
  svg: {
    type: 'image/svg+xml',
    body: '<svg xmlns="http://www.w3.org/2000/svg" width="40" height="20"><script>top.hurt=1</script></svg>',
  },
  damaged: { type: 'application/json', body: '{"huts":[{"name":"Alba"},{"name":' },
  deep: { type: 'application/json', body: `${'['.repeat(50_000)}1${']'.repeat(50_000)}` },
  line: { type: 'text/javascript', body: `var a="${'x'.repeat(400_000)}"` },
  markup: {
    type: 'application/json',
    body: JSON.stringify({ '<img src=x onerror="top.hurt=1">': '<script>top.hurt=1</script>' }),
  },
  bomb: {
    type: 'application/json',
    body: gzipSync(Buffer.alloc(300_000_000)),
    response: { headers: [{ name: 'content-encoding', value: 'gzip' }] },
  },
  brokenFont: { type: 'font/woff2', body: Buffer.from('wOF2 but not really') },
  brokenImage: { type: 'image/png', body: Buffer.from('no picture') },
  upload: {
    type: 'application/json',
    body: '{}',
    request: {
      method: 'POST',
      postData: {
        mimeType: 'multipart/form-data; boundary=b',
        text: '--b\r\nContent-Disposition: form-data; name="title"\r\n\r\nOne night\r\n--b\r\nContent-Disposition: form-data; name="list"; filename="beds.json"\r\nContent-Type: application/json\r\n\r\n{"beds":[1,2]}\r\n--b--\r\n',
      },
    },
  },
  form: {
    type: 'text/plain',
    body: 'ok',
    request: {
      method: 'POST',
      url: 'https://api.cumbrera.example:8443/book/alba?day=1759482000&day=&bare#top',
      postData: { mimeType: 'application/x-www-form-urlencoded', text: 'guest=Ana+B&back=https%3A%2F%2Fa.example%2F' },
    },
  },
  nested: {
    type: 'application/json',
    body: JSON.stringify([
      {
        hut: 'Peña Ártica',
        nights: [
          { on: 'Mon', price: 34 },
          { on: 'Tue', price: 31 },
        ],
        beds: 4,
      },
      { hut: 'Brisa Alta', nights: [{ on: 'Mon', price: 40 }], beds: 2 },
    ]),
  },
} as const satisfies Record<string, Made>;
export type MadeName = keyof typeof MADE;

/** The number of an exchange in the capture. */
export const placeOf = (name: MadeName): number => Object.keys(MADE).indexOf(name);

/** The capture as a file's text. */
export function madeCapture(): string {
  const entries = Object.entries(MADE as Record<string, Made>).map(([name, { type, body, request, response }], at) => ({
    startedDateTime: new Date(Date.UTC(2026, 9, 3, 9, 0, 0, at * 40)).toISOString(),
    request: { method: 'GET', url: `https://api.cumbrera.example/made/${name}`, headers: [], ...request },
    response: {
      status: 200,
      headers: [],
      ...response,
      content: {
        mimeType: type,
        size: body.length,
        ...(typeof body === 'string' ? { text: body } : { encoding: 'base64', text: body.toString('base64') }),
      },
    },
    timings: { send: 0, wait: 20, receive: 5 },
  }));
  return JSON.stringify({ log: { version: '1.2', creator: { name: 'made', version: '1' }, entries } });
}
