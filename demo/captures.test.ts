import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { analyse, type ExchangeRow, takeFacts } from '#core/analysis';
import { type CachePolicy, nextVisitOf, readPolicy } from '#core/cache';
import { HarReader, isObject, normaliseEntry } from '#core/har';

const FOLDER = 'demo/captures';
const captures = readdirSync(FOLDER).filter((name) => name.endsWith('.har'));

function rowsOf(name: string): readonly ExchangeRow[] {
  const facts: ReturnType<typeof takeFacts>[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (isObject(value)) facts.push(takeFacts(normaliseEntry(value, place)));
    },
  });
  reader.push(readFileSync(join(FOLDER, name)));
  const { capture } = reader.end();
  return analyse(facts, capture.pages, capture.completeness).rows;
}

interface Logged {
  readonly method: string;
  readonly url: string;
  readonly status: number;
}

describe.each(captures)('the demo capture %s', (name) => {
  const rows = rowsOf(name);

  it('comes out as what the site itself saw: asked for, confirmed, or never asked for', () => {
    const log = JSON.parse(readFileSync(join(FOLDER, name.replace('.har', '.log.json')), 'utf8')) as Logged[];
    const wrong: string[] = [];
    for (const row of rows) {
      const place = log.findIndex(({ method, url }) => method === row.method && url === row.url);
      const [seen] = place === -1 ? [] : log.splice(place, 1);
      const truth = seen === undefined ? 'not asked' : seen.status === 304 ? 'revalidated' : 'network';
      const told = row.source === 'network' || row.source === 'revalidated' ? row.source : 'not asked';
      // A call that the page gave up may or may not have reached the site: nobody can tell from the recording.
      if (row.source !== 'none' && told !== truth)
        wrong.push(`#${row.index} ${row.url}: ${row.source}, the site says ${truth}`);
    }
    expect(wrong).toEqual([]);
  });

  it('names only hosts of the made-up world, and is no larger than a repository should hold', () => {
    for (const { host } of rows) expect(host).toMatch(/\.?(cumbrera|letterpile|tallyfox|topolines)\.example$/);
    expect(statSync(join(FOLDER, name)).size).toBeLessThan(3_000_000);
  });
});

/** For each address of a capture whether it was asked about by a condition (RFC 9110 13.1), or confirmed unchanged. */
function readConditions(name: string): ReadonlyMap<string, boolean> {
  const conditions = new Map<string, boolean>();
  const sources = new Map<number, string>(rowsOf(name).map(({ index, source }) => [index, source]));
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (!isObject(value)) return;
      const { request, index } = normaliseEntry(value, place);
      const isConditional = request.headers.some(({ name: header }) =>
        /^if-(none-match|modified-since)$/i.test(header),
      );
      conditions.set(
        request.url,
        isConditional || sources.get(index) === 'revalidated' || conditions.get(request.url) === true,
      );
    },
  });
  reader.push(readFileSync(join(FOLDER, name)));
  reader.end();
  return conditions;
}

describe('the forecast of the first visit', () => {
  /** The second visit of the demo came so soon after the first. */
  const AFTER_SECONDS = 30;

  it('is what the second visit did, by the log of the site itself', () => {
    const policies = new Map<string, CachePolicy | undefined>();
    const reader = new HarReader({
      onEntry: ({ value, place }) => {
        if (!isObject(value)) return;
        const exchange = normaliseEntry(value, place);
        const { method, url } = exchange.request;
        // Of what is asked for more than once on a visit the last answer is the one that is kept.
        if (method === 'GET') policies.set(url, readPolicy(exchange));
      },
    });
    reader.push(readFileSync(join(FOLDER, 'alba-norte-first-visit.har')));
    reader.end();
    const log = JSON.parse(readFileSync(join(FOLDER, 'alba-norte-second-visit.log.json'), 'utf8')) as Logged[];
    const asksAbout = readConditions('alba-norte-second-visit.har');
    const wrong: string[] = [];
    let compared = 0;
    for (const [url, policy] of policies) {
      if (!asksAbout.has(url)) continue;
      compared++;
      const asked = log.filter((one) => one.method === 'GET' && one.url === url);
      // What was asked about counts as that whatever the site answered: it sends its notices whole each time.
      const did = asked.length === 0 ? 'reused' : asksAbout.get(url) === true ? 'revalidated' : 'fetched';
      const foretold = nextVisitOf(policy, AFTER_SECONDS);
      if (foretold !== did) wrong.push(`${url}: foretold ${foretold}, ${did}`);
    }
    expect(compared).toBeGreaterThan(80);
    expect(wrong).toEqual([]);
  });
});
