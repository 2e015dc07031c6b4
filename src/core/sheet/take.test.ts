import { describe, expect, it } from 'vitest';
import { placeOf, takeValue, tellTaken } from './index';

const response = {
  headers: [
    { name: 'Location', value: '/holds/h-1' },
    { name: 'Set-Cookie', value: 'sid=old; Path=/' },
    { name: 'set-cookie', value: 'sid=a=b; Path=/' },
  ],
  text: '{"token":"t","n":1.5,"list":[{"id":"x"}],"a.b":true,"gone":null,"id":98765432109876543}',
};

describe('a value of a response', () => {
  it.each([
    ['json', '$.token', 't'],
    ['json', '$.n', '1.5'],
    ['json', '$.list[0].id', 'x'],
    ['json', '$.list[*].id', 'x'],
    ['json', '$["a.b"]', 'true'],
    ['json', '$.gone', undefined],
    // Not as the nearest double.
    ['json', '$.id', '98765432109876543'],
    ['json', '$.list.length', undefined],
    ['json', '$.list', undefined],
    ['json', '$.token.length', undefined],
    ['json', '$.__proto__', undefined],
    ['json', '$[', undefined],
    ['text', '"token":"…"', 't'],
    ['text', '"list":[{…', '"id":"x"}],"a.b":true,"gone":null,"id":98765432109876543}'],
    ['text', '"n":…;', undefined],
    ['text', '"gone":…null', undefined],
    ['text', '…"', undefined],
    ['text', '"token":"', undefined],
    ['parameter', 'hut', undefined],
    ['header', 'location', '/holds/h-1'],
    ['header', 'etag', undefined],
    // The last one that is set is the one that counts (RFC 6265 5.3).
    ['cookie', 'sid', 'a=b'],
    ['cookie', 'path', undefined],
  ] as const)('of its %s at %s', (part, place, value) => expect(takeValue(response, { part, place })).toBe(value));

  it('is none where there is no body', () =>
    expect(takeValue({ headers: [], text: undefined }, { part: 'json', place: '$.token' })).toBeUndefined());

  it('is taken from where the capture gave it', () => {
    expect(tellTaken(placeOf({ type: 'json', path: ['list', 0, 'a b'], holds: 'text' }))).toBe('$.list[0]["a b"]');
    expect(tellTaken(placeOf({ type: 'cookie', name: 'sid' }))).toBe('the cookie sid');
    expect(takeValue(response, placeOf({ type: 'location' }))).toBe('/holds/h-1');
    const encoded = { part: 'header', place: 'location', as: 'encoded' } as const;
    expect(takeValue(response, encoded)).toBe('%2Fholds%2Fh-1');
    expect(tellTaken(encoded)).toBe('the header location, percent-encoded');
    const led = { headers: [{ name: 'location', value: '/back?a=1&code=x%2By#b=' }], text: undefined };
    const code = placeOf({ type: 'parameter', name: 'code' });
    expect(tellTaken(code)).toBe('the parameter code of Location');
    expect(takeValue(led, code)).toBe('x%2By');
    expect(takeValue(led, { ...code, as: 'decoded' })).toBe('x+y');
    for (const none of ['b', 'od', 'c']) expect(takeValue(led, { ...code, place: none })).toBeUndefined();
    const text = placeOf({ type: 'text', before: '<i\n value="', after: '"' });
    expect(takeValue({ headers: [], text: 'a<i\n value="x">' }, text)).toBe('x');
    expect(tellTaken(text)).toBe('<i value="…"');
  });
});
