import { closeSync, openSync, writeSync } from 'node:fs';

const WORDS = 'hut bed ridge warden lamp bread spring stove night trail snow wind larch saddle fog terrace'.split(' ');

/** A small fast generator (xorshift32): the same capture at every run. */
function* numbers(): Generator<number, never> {
  let state = 0x9e3779b9;
  for (;;) {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    yield state >>> 0;
  }
}

/**
 * Writes a capture of about the given length: exchanges as browsers record them, with 15 headers each way and bodies
 * of JSON text (escaped quotes and all), script and base64 in the sizes that pages have.
 * @param moreHeaders what each request has beside, by its number
 * @returns the number of exchanges
 */
export function generateCapture(
  path: string,
  bytes: number,
  moreHeaders: (at: number) => readonly { readonly name: string; readonly value: string }[] = () => [],
): number {
  const random = numbers();
  const next = (below: number): number => random.next().value % below;
  const words = (count: number): string => Array.from({ length: count }, () => WORDS[next(WORDS.length)]).join(' ');
  const file = openSync(path, 'w');
  const start = Date.UTC(2026, 9, 3);
  let written = writeSync(
    file,
    `{"log":{"version":"1.2","creator":{"name":"bench","version":"1"},"pages":[{"id":"p","title":"bench","startedDateTime":"${new Date(start).toISOString()}","pageTimings":{"onContentLoad":900,"onLoad":2800}}],"entries":[\n`,
  );
  let count = 0;
  for (; written < bytes; count++) {
    const body = bodyOf(next(10), next, words, count);
    const headers = Array.from({ length: 15 }, (_, at) => ({ name: `x-header-${at}`, value: words(1 + next(6)) }));
    const entry = {
      pageref: 'p',
      startedDateTime: new Date(start + count * 3).toISOString(),
      time: 60,
      request: {
        method: 'GET',
        url: `https://api.cumbrera.example/huts/${next(5000)}?page=${next(9)}`,
        httpVersion: 'HTTP/2.0',
        cookies: [],
        headers: [...headers, ...moreHeaders(count)],
        queryString: [],
        headersSize: -1,
        bodySize: 0,
      },
      response: {
        status: next(20) === 0 ? 404 : 200,
        statusText: '',
        httpVersion: 'HTTP/2.0',
        cookies: [],
        headers,
        content: body,
        redirectURL: '',
        headersSize: -1,
        bodySize: -1,
        _transferSize: body.size >> 1,
      },
      cache: {},
      timings: { blocked: next(9), dns: -1, connect: -1, ssl: -1, send: 0, wait: next(200), receive: next(80) },
    };
    written += writeSync(file, `${count === 0 ? '' : ',\n'}${JSON.stringify(entry)}`);
  }
  writeSync(file, '\n]}}\n');
  closeSync(file);
  return count;
}

function bodyOf(
  kind: number,
  next: (below: number) => number,
  words: (count: number) => string,
  count: number,
): { size: number; mimeType: string; text: string; encoding?: string } {
  if (kind < 4) {
    const rows = Array.from({ length: 20 + next(200) }, (_, id) => ({
      id: count * 1000 + id,
      name: words(3),
      free: next(40),
    }));
    const text = JSON.stringify(rows);
    return { size: text.length, mimeType: 'application/json', text };
  }
  if (kind < 7) {
    const text = Array.from({ length: 50 + next(900) }, (_, line) => `const v${line} = "${words(4)}";`).join('\n');
    return { size: text.length, mimeType: 'text/javascript', text };
  }
  const bytes = Buffer.alloc(4000 + next(60_000));
  for (let at = 0; at < bytes.length; at += 4) bytes.writeUInt32LE(next(0xffffffff), at % (bytes.length - 3));
  return { size: bytes.length, mimeType: 'image/webp', text: bytes.toString('base64'), encoding: 'base64' };
}
