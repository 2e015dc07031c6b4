import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { analyse, type ExchangeRow, takeFacts } from '#core/analysis';
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
