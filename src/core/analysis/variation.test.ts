import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { middleOf, spreadOf } from './spread';
import { compareCalls } from './variation';

const call = (url: string, more: Record<string, unknown> = {}, answer?: string) => {
  const { postData } = more as { postData?: { text?: string } };
  const entry = {
    request: { method: 'GET', url: `https://a.example${url}`, headers: [], ...more },
    response: { status: 200 },
  };
  return { exchange: normaliseEntry(entry as unknown as JsonObject, 0), payload: postData?.text, answer };
};
const told = (...calls: ReturnType<typeof call>[]) =>
  compareCalls(calls).fields.map(({ group, name, values, course }) => [
    `${group} ${name}`,
    values,
    course.type === 'counts' ? course.step : course.type,
  ]);

describe('what varies from call to call', () => {
  it('tells a page counter, a cursor that the answer before gave, and what stays, the varying first', () => {
    const next = (cursor: string) => JSON.stringify({ items: [], next: cursor });
    expect(
      told(
        call('/huts?page=0&size=20&after=', {}, next('c81f')),
        call('/huts?page=1&size=20&after=c81f', {}, next('9d02')),
        call('/huts?page=2&size=20&after=9d02'),
      ),
    ).toEqual([
      ['query page', ['0', '1', '2'], 1],
      ['query after', ['', 'c81f', '9d02'], 'cursor'],
      ['path segment 1', ['huts', 'huts', 'huts'], 'stays'],
      ['query size', ['20', '20', '20'], 'stays'],
    ]);
  });

  it('looks into JSON payloads by path and into forms by name, and at headers without case', () => {
    const json = (text: string, token: string) =>
      call('/graphql', {
        method: 'POST',
        headers: [{ name: 'X-Token', value: token }],
        postData: { mimeType: 'application/json', text },
      });
    expect(
      told(json('{"variables":{"id":7,"tags":["a"]}}', 't'), json('{"variables":{"id":9,"tags":[]}}', 't')).slice(0, 2),
    ).toEqual([
      ['payload $.variables.id', ['7', '9'], 2],
      ['payload $.variables.tags[0]', ['a', undefined], 'varies'],
    ]);
    const form = (text: string) => call('/form', { postData: { mimeType: 'application/x-www-form-urlencoded', text } });
    expect(told(form('q=al&lang=es'), form('q=alba&lang=es'))).toEqual([
      ['payload q', ['al', 'alba'], 'varies'],
      ['path segment 1', ['form', 'form'], 'stays'],
      ['payload lang', ['es', 'es'], 'stays'],
    ]);
  });

  it('keeps all values of a name that comes more than once', () => {
    expect(told(call('/x?tag=a&tag=b'), call('/x?tag=a'))[0]).toEqual(['query tag', ['a, b', 'a'], 'varies']);
  });

  it('of one call is nothing', () =>
    expect(told(call('/x?page=3')).map(([, , course]) => course)).toEqual(['stays', 'stays']));
});

describe('the spread', () => {
  it('lists few values and takes percentiles of five and more', () => {
    expect(spreadOf([3, undefined, 1])).toEqual({ type: 'values', values: [1, 3] });
    expect(spreadOf([5, 1, 4, 2, 3])).toEqual({ type: 'percentiles', count: 5, median: 3, p95: 5, max: 5 });
    expect(middleOf(spreadOf([]))).toBeUndefined();
    expect(middleOf(spreadOf([1, 9]))).toBe(1);
  });

  it('has half of the values at or under its median, and 95 % at or under its p95', () => {
    fc.assert(
      fc.property(fc.array(fc.integer(), { minLength: 5, maxLength: 60 }), (values) => {
        const spread = spreadOf(values);
        if (spread.type !== 'percentiles') throw new Error('too few');
        const under = (limit: number): number => values.filter((value) => value <= limit).length / values.length;
        expect(under(spread.median)).toBeGreaterThanOrEqual(0.5);
        expect(under(spread.p95)).toBeGreaterThanOrEqual(0.95);
        expect(values).toContain(spread.p95);
      }),
    );
  });
});
