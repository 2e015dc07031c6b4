import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { findResponse } from '../model';
import { askedValues, givenValues, usesAnswer } from './values';

interface Asked {
  readonly url?: string;
  readonly headers?: Readonly<Record<string, string>>;
  readonly payload?: string;
}

const listOf = (headers: Readonly<Record<string, string>> = {}) =>
  Object.entries(headers).map(([name, value]) => ({ name, value }));

function asked({ url = 'https://a.example/', headers, payload }: Asked): Uint32Array {
  const entry = {
    request: {
      method: 'POST',
      url,
      headers: listOf(headers),
      ...(payload === undefined ? {} : { postData: { mimeType: 'text/plain', text: payload } }),
    },
  };
  return askedValues(normaliseEntry(entry as unknown as JsonObject, 0).request);
}

function given(json: string | undefined, headers?: Readonly<Record<string, string>>): Uint32Array | undefined {
  const entry = { request: {}, response: { status: 200, headers: listOf(headers), content: {} } };
  const response = findResponse(normaliseEntry(entry as unknown as JsonObject, 0));
  return givenValues(response?.headers ?? [], json);
}

const uses = (
  request: Asked,
  json: string,
  headers?: Readonly<Record<string, string>>,
  before: Asked[] = [],
): boolean =>
  usesAnswer(
    asked(request),
    given(json, headers) ?? new Uint32Array(),
    new Set(before.flatMap((one) => [...asked(one)])),
  );

describe('a request that uses what an answer gave', () => {
  it.each([
    ['in its path', { url: 'https://a.example/huts/alba-norte' }, '{"slug":"alba-norte"}', {}],
    ['in its query, encoded', { url: 'https://a.example/?q=a%20b%2Bc' }, '{"text":"a b+c"}', {}],
    ['in its JSON, however deep', { payload: '{"a":[{"b":"hold-1"}]}' }, '[[{"id":"hold-1"}]]', {}],
    ['in its form', { payload: 'a=1&hold=hold-1' }, '{"id":"hold-1"}', {}],
    ['as its token', { headers: { Authorization: 'Bearer s3cret-x' } }, '{"token":"s3cret-x"}', {}],
    ['in a header of its own', { headers: { 'X-Visit': 'w-2871' } }, '{"visit":"w-2871"}', {}],
    ['as a cookie', { headers: { Cookie: 'a=1; walker=w-2871' } }, '{}', { 'Set-Cookie': 'walker=w-2871; Path=/' }],
    ['as a number', { url: 'https://a.example/?id=77120' }, '{"id":77120}', {}],
    [
      'as a part of an address',
      { url: 'https://a.example/huts/alba' },
      '{"href":"https://b.example/huts/alba?x=1"}',
      {},
    ],
    ['as the place to go on at, short as it is', { url: 'https://a.example/?page=2' }, '{"nextPage":2}', {}],
  ] as [string, Asked, string, Record<string, string>][])('%s', (_, request, json, headers) =>
    expect(uses(request, json, headers)).toBe(true),
  );

  it.each([
    ['whose values are others', { url: 'https://a.example/huts/brisa' }, '{"slug":"alba-norte"}', {}],
    ['that shares but a short value', { url: 'https://a.example/?day=2' }, '{"beds":2}', {}],
    [
      'that shares but what browsers always send',
      { headers: { Accept: 'application/json' } },
      '{"type":"application/json"}',
      {},
    ],
    ['that shares but a name', { url: 'https://a.example/?slug=x' }, '{"slug":"alba-norte"}', {}],
  ] as [string, Asked, string, Record<string, string>][])('is none %s', (_, request, json, headers) =>
    expect(uses(request, json, headers)).toBe(false),
  );

  it('is none where a request before had the value already', () => {
    const request = { url: 'https://a.example/huts/alba-norte/beds' };
    expect(uses(request, '{"slug":"alba-norte"}', {}, [{ url: 'https://a.example/huts/alba-norte' }])).toBe(false);
  });

  it('is found for any value of some length, and never without it', () => {
    const value = fc.stringMatching(/^[a-z0-9]{6,20}$/);
    fc.assert(
      fc.property(value, value, (one, other) => {
        const json = JSON.stringify({ list: [{ id: one }] });
        expect(uses({ url: `https://a.example/x/${one}` }, json)).toBe(true);
        if (one !== other) expect(uses({ url: `https://a.example/x/${other}` }, json)).toBe(false);
      }),
    );
  });
});

describe('the values of an answer', () => {
  it.each([
    ['no body', undefined],
    ['what is no JSON', '{"cut":'],
    ['text that is no object or list', '"text"'],
    ['more values than can be told apart', JSON.stringify(Array.from({ length: 30_000 }, (_, at) => `value-${at}`))],
  ])('of %s are not known', (_, json) => expect(given(json)).toBeUndefined());

  it('of an empty object are none, and known to be', () => expect([...(given('{}') ?? [1])]).toEqual([]));
});
