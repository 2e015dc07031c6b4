import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { inflateWithZlib } from '../../server/inflate';
import { isObject, type Json, normaliseEntry } from '../har';
import { findResponse } from '../model';
import { bodyAsSent } from './index';

const SESSION = '../shared/captures/api-session';

interface Served {
  readonly method?: string;
  readonly host: string;
  readonly url: string;
  readonly resp_sha256?: string;
}

// The server's own log of that recording has the hash of every body that it sent.
it.skipIf(!existsSync(`${SESSION}.truth.json`))('every recorded body is, byte for byte, what the server sent', () => {
  const { log } = JSON.parse(readFileSync(`${SESSION}.har`, 'utf8')) as { log: { entries: Json[] } };
  const { server_log } = JSON.parse(readFileSync(`${SESSION}.truth.json`, 'utf8')) as { server_log: Served[] };
  const served = new Map<string, (string | undefined)[]>();
  for (const { method, host, url, resp_sha256 } of server_log) {
    if (method === undefined) continue;
    const key = `${method} http://${host}${url}`;
    served.set(key, [...(served.get(key) ?? []), resp_sha256]);
  }
  let compared = 0;
  const wrong = log.entries.flatMap((entry, place) => {
    if (!isObject(entry)) return [];
    const exchange = normaliseEntry(entry, place);
    const wanted = served.get(`${exchange.request.method} ${exchange.request.url}`)?.shift();
    const response = findResponse(exchange);
    const bytes = response === undefined ? undefined : bodyAsSent(response, inflateWithZlib);
    // What was not recorded cannot be held against anything.
    if (wanted === undefined || bytes === undefined) return [];
    compared++;
    return createHash('sha256').update(bytes).digest('hex') === wanted ? [] : [`#${place} ${exchange.request.url}`];
  });
  expect(wrong).toEqual([]);
  expect(compared).toBeGreaterThan(100);
});
