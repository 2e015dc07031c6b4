import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { type ComparedSide, compareExchanges } from './index';

function side(change: {
  url?: string;
  status?: number;
  wait?: number;
  headers?: [string, string][];
  body?: string;
}): ComparedSide {
  const entry = {
    request: { method: 'GET', url: change.url ?? 'https://a.example/huts?page=1' },
    response: {
      status: change.status ?? 200,
      headers: (change.headers ?? []).map(([name, value]) => ({ name, value })),
    },
    timings: { wait: change.wait ?? 10, receive: 1 },
  };
  return { exchange: normaliseEntry(entry as unknown as JsonObject, 0), payload: undefined, body: change.body };
}

const told = (a: ComparedSide, b: ComparedSide) =>
  compareExchanges(a, b).differences.map(({ part, name, here, there }) => `${part} ${name}: ${here} / ${there}`);

describe('two exchanges compared with each other', () => {
  it('differ part by part, in the order of the dossier', () => {
    const here = side({ headers: [['ETag', '"a"']], body: '{"page":1,"free":[3,4]}' });
    const there = side({ url: 'https://a.example/huts?page=2', status: 404, wait: 30, body: '{"page":2,"free":[3]}' });
    expect(told(here, there)).toEqual([
      'timing and size total: 11 ms / 31 ms',
      'timing and size wait: 10 ms / 30 ms',
      'query page: 1 / 2',
      'status status: 200 / 404',
      'response header etag: "a" / undefined',
      'caching validators: etag / none',
      'body $.page: 1 / 2',
      'body $.free[1]: 4 / undefined',
    ]);
  });

  it('compares text that is no JSON by runs of lines', () => {
    expect(told(side({ body: 'a\nb\nc\n' }), side({ body: 'a\nB\nc\n' }))).toEqual(['body from line 2: b\n / B\n']);
  });

  it('compares long numbers digit by digit', () =>
    expect(told(side({ body: '{"id":98765432109876543}' }), side({ body: '{"id":98765432109876544}' }))).toEqual([
      'body $.id: 98765432109876543 / 98765432109876544',
    ]));

  it('is the same as itself in everything', () => {
    fc.assert(
      fc.property(fc.string(), fc.option(fc.string(), { nil: undefined }), (path, body) => {
        const one = side({ url: `https://a.example/${path}`, ...(body === undefined ? {} : { body }) });
        expect(told(one, one)).toEqual([]);
      }),
    );
  });
});
