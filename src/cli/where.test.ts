import { readdirSync } from 'node:fs';
import { expect, it } from 'vitest';
import { Columns, evaluateFilter, needsBodies, parseFilter } from '#core/filter';
import { analyseFile, diagnoseFile } from '#server/capture-file';

const FOLDER = 'demo/captures';

/** A filter of each field whose answers depend on it: of numbers and texts for some value that rows have. */
const FILTERS = [
  ...['failed', 'errors', 'storable', 'opened', 'repeated', 'onroute'],
  ...['method', 'url', 'host', 'path', 'kind', 'source', 'party', 'page', 'outcome', 'endpoint'].map(
    (name) => `${name} ~ o`,
  ),
  ...['protocol', 'mime', 'operation', 'failure', 'finding'].map((name) => `${name} ~ e`),
  ...['time', 'start', 'end', 'blocked', 'setup', 'wait', 'receive'].map((name) => `${name} > 40 ms`),
  ...['wire', 'body', 'saved'].map((name) => `${name} > 900`),
  'status = 4xx',
  'number > 9',
  'depth > 1',
  'fresh > 60 s',
  'roundtrip > 1 ms',
  'connection ~ 1',
  'availability',
];

it('reads bodies for the filters that ask for what only they tell, and for no other', () => {
  const differ = new Set<string>();
  for (const name of readdirSync(FOLDER).filter((one) => one.endsWith('.har'))) {
    const input = { path: `${FOLDER}/${name}`, shown: name, damage: undefined };
    const [without, withBodies] = [analyseFile(input), diagnoseFile(input)];
    for (const text of FILTERS) {
      const parsed = parseFilter(text);
      if (!parsed.ok) throw new Error(text);
      const masks = [without, withBodies].map(({ rows }) =>
        evaluateFilter(parsed.filter, new Columns(rows, new Map(), new Map())),
      );
      if (!masks[0]?.every((one, at) => one === masks[1]?.[at])) differ.add(text);
      if (!needsBodies(parsed.filter)) expect(masks[0], `${name}: ${text}`).toEqual(masks[1]);
    }
  }
  expect([...differ].sort()).toEqual(['depth > 1', 'errors', 'finding ~ e', 'onroute']);
  const nested = parseFilter('host ~ api and not (kind = image or errors)');
  expect(nested.ok && needsBodies(nested.filter)).toBe(true);
});
