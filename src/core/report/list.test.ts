import { describe, expect, it } from 'vitest';
import { analyse, takeFacts } from '../analysis';
import { type JsonObject, normaliseEntry } from '../har';
import { rowsToCsv, toCsv } from './index';

describe('CSV', () => {
  it('quotes what holds a comma, a quote or a line, and doubles quotes', () => {
    expect(
      toCsv(
        ['a', 'b'],
        [
          ['x,y', 'say "hi"\n'],
          [undefined, 3],
        ],
      ),
    ).toBe('a,b\r\n"x,y","say ""hi""\n"\r\n,3\r\n');
  });

  it.each(['=1+1', '+1+1', '-1+1', '@SUM(A1)', '\tx', '\n=1+1', ' =1', '\u00a0@x'])(
    'defuses %j, which a table program would run',
    (cell) => {
      const written = cell.includes('\n') ? `"'${cell}"` : `'${cell}`;
      expect(toCsv(['a'], [[cell]])).toBe(`a\r\n${written}\r\n`);
    },
  );

  it('leaves negative numbers as they are', () => expect(toCsv(['a'], [[-12.5]])).toBe('a\r\n-12.5\r\n'));

  it('of exchanges has a column for each phase, and empty cells for what is unknown', () => {
    const entry = { request: { url: 'https://a.example/=1' }, response: { status: 200 }, timings: { wait: 3 } };
    const { rows } = analyse([takeFacts(normaliseEntry(entry as unknown as JsonObject, 0))], [], { type: 'whole' });
    const [header, first] = rowsToCsv(rows)
      .split('\r\n')
      .map((line) => line.split(','));
    const cell = (name: string): string | undefined => first?.[header?.indexOf(name) ?? -1];
    expect([cell('url'), cell('waitMs'), cell('tlsMs'), cell('failed')]).toEqual([
      'https://a.example/=1',
      '3',
      '',
      'false',
    ]);
    expect(rowsToCsv([])).toBe('\r\n');
  });

  it('of exchanges has times without the blur of adding', () => {
    const timings = { send: 0.1, wait: 0.2, receive: 0 };
    const entry = { request: { url: 'https://a.example/' }, response: { status: 200 }, time: 0.1 + 0.2, timings };
    const { rows } = analyse([takeFacts(normaliseEntry(entry as unknown as JsonObject, 0))], [], { type: 'whole' });
    expect(String(rows[0]?.timeMs)).toBe('0.30000000000000004');
    expect(rowsToCsv(rows)).toContain(',0.3,');
    expect(rowsToCsv(rows)).not.toMatch(/\d\.\d{7}/);
  });
});
