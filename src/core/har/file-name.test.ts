import { expect, it } from 'vitest';
import { captureName, mayHoldCapture } from './file-name';

it.each([
  ['load.har', 'load'],
  ['Load.HAR.GZ', 'Load'],
  ['visit.2026.json', 'visit.2026'],
  ['no ending', 'no ending'],
  ['.har', 'capture'],
  [`${'x'.repeat(300)}.zip`, 'x'.repeat(200)],
])('a capture in %s is called %s', (fileName, name) => expect(captureName(fileName)).toBe(name));

it('tells files that may hold a capture by their endings', () => {
  expect(['a.har', 'b.JSON', 'c.zip', 'd.gz', 'e.txt', 'har'].map(mayHoldCapture)).toEqual([
    true,
    true,
    true,
    true,
    false,
    false,
  ]);
});
