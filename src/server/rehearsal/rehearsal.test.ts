import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { bodyAsSent, readPayloadContent } from '#core/content';
import { type Exchange, findHeader, findResponse } from '#core/model';
import { originOf, shownOrigin } from '#core/rehearse';
import { inflateWithZlib } from '../inflate';
import { ask, type PlainResponse, rehearseFile } from '../testing/rehearsed';

const FOLDERS = ['demo/captures', '../shared/captures'].filter(existsSync);
const CAPTURES = FOLDERS.flatMap((folder) =>
  readdirSync(folder)
    .filter((name) => name.endsWith('.har'))
    .map((name) => join(folder, name)),
);
/** Headers that a plain client makes for itself, and conditions on a copy that it does not have. */
const OWN = /^(?::|connection$|content-length$|transfer-encoding$|upgrade$|host$|expect$)/i;
const CONDITIONS = /^if-(?:none-match|modified-since)$/i;

/** Asks what an exchange asked, with its own headers, at its own host. */
function askAgain(port: number, { request, ...exchange }: Exchange): Promise<PlainResponse> {
  const status = findResponse({ request, ...exchange })?.status;
  const headers = request.headers.filter(({ name }) => !OWN.test(name) && (status === 304 || !CONDITIONS.test(name)));
  const origin = shownOrigin(originOf(request.url) ?? '');
  const payload = request.payload && readPayloadContent(request.payload, request.bodyBytes);
  // Of what the capture does not hold the length is known at least.
  const unknown = payload?.type === 'unrecorded' ? new Uint8Array(request.bodyBytes ?? 0) : undefined;
  const body = payload?.type === 'bytes' ? payload.bytes : unknown;
  const isStream = exchange.kind.value === 'stream';
  const response = findResponse({ request, ...exchange });
  const length = (response && bodyAsSent(response, inflateWithZlib)?.length) ?? 0;
  return ask({
    port,
    method: request.method,
    target: request.url.slice(request.url.indexOf('/', 8)).replace(/#.*$/s, '') || '/',
    headers: [{ name: 'Host', value: origin.replace(/^https?:\/\//, '') }, ...headers],
    ...(body === undefined ? {} : { body }),
    // Nobody closes a stream that is held open.
    ...(isStream ? { enoughBytes: length } : {}),
    patienceMs: 1500,
  });
}

function unpacked({ headers, bytes }: PlainResponse): Uint8Array {
  const coding = findHeader(headers, 'content-encoding');
  return coding === undefined ? bytes : (inflateWithZlib(bytes, coding as 'gzip', 1e9) ?? bytes);
}

describe('what a rehearsal gives', () => {
  it.each(CAPTURES)('is what was captured, by status and by bytes: %s', { timeout: 180_000 }, async (path) => {
    const rehearsal = await rehearseFile(path);
    const wrong: string[] = [];
    let compared = 0;
    for (const { index, isSocket } of rehearsal.recording.requests) {
      const exchange = rehearsal.recording.read(index);
      const response = findResponse(exchange);
      if (isSocket || response?.status === 101) continue;
      const came = await askAgain(rehearsal.port, exchange).catch((error: unknown) => error as Error);
      compared++;
      const told = `#${index} ${exchange.request.method} ${exchange.request.url}`;
      if (response === undefined || exchange.outcome.type === 'cut') {
        // A browser gives up a page that has no content; a stream is held open.
        const isWhole = exchange.kind.value === 'stream' || response?.status === 204;
        if (!(came instanceof Error) && !isWhole) wrong.push(`${told}: ${came.status} where nothing whole came`);
        continue;
      }
      if (came instanceof Error) wrong.push(`${told}: ${came.message}`);
      else if (came.status !== response.status) wrong.push(`${told}: ${came.status}, not ${response.status}`);
      else {
        const body = bodyAsSent(response, inflateWithZlib);
        const isNone = exchange.request.method === 'HEAD' || response.status === 304 || response.status === 204;
        const wanted = isNone ? new Uint8Array() : (body ?? new Uint8Array());
        if (Buffer.compare(Buffer.from(unpacked(came)), Buffer.from(wanted)) !== 0)
          wrong.push(`${told}: ${came.bytes.length} bytes that are others than the captured ${wanted.length}`);
      }
    }
    await rehearsal.close();
    expect(wrong).toEqual([]);
    expect(compared).toBeGreaterThan(5);
    const verdicts = rehearsal.asked.map(({ notes }) => `${notes.fits} ${notes.taken}`);
    expect(verdicts.filter((verdict) => !verdict.startsWith('fits'))).toEqual([]);
  });
});
