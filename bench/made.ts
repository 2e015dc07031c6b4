// Captures made up for the benchmarks.

export const START = Date.UTC(2026, 9, 3);
const KINDS = ['script', 'image', 'fetch', 'image', 'stylesheet', 'image', 'fetch', 'font', 'image', 'image'] as const;
const HOSTS = ['www', 'img', 'api', 'img', 'www', 'img', 'api', 'type', 'img', 'img'] as const;

/**
 * A page of so many exchanges: scripts that ask for scripts, pictures by HTTP/1.1 that queue, calls that fail now and then.
 * @param slowerBy ms that a third of its responses take longer
 */
export function captureOf(count: number, slowerBy = 0): string {
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
        wait: 20 + (at % 90) + (at % 3 === 0 ? slowerBy : 0),
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
