import { describe, expect, it } from 'vitest';
import { findErrorInside } from './error-inside';

const find = (mimeType: string, text: string, status = 200, contentType = mimeType) =>
  findErrorInside(
    {
      status,
      statusText: '',
      protocol: undefined,
      headers: [{ name: 'Content-Type', value: contentType }],
      redirectUrl: undefined,
      mimeType,
      body: undefined,
    },
    text,
  );

const parts = (...members: unknown[]) =>
  members.map((one) => `--q\r\nContent-Type: application/json\r\n\r\n${JSON.stringify(one)}\r\n`).join('') +
  '--q--\r\n';
const MIXED = 'multipart/mixed; boundary="q"; deferSpec=20220824';

describe('an error inside a success', () => {
  it.each([
    ['application/json', '{"data":null,"errors":[{"message":"no such hut"}]}', 'no such hut'],
    ['application/graphql-response+json', '{"errors":[{"code":7}]}', '{"code":7}'],
    ['application/json', '[{"data":{}},{"errors":[{"message":"second of a batch"}]}]', 'second of a batch'],
    ['application/json', '{"error":"lapsed"}', 'lapsed'],
    ['application/problem+json', '{"title":"Full","detail":"No bed is free."}', 'No bed is free.'],
    [MIXED, parts({ data: {}, hasNext: true }, { path: ['x'], errors: [{ message: 'late' }] }), 'late'],
    [MIXED, parts({ data: {} }, { incremental: [{ data: {} }, { errors: [{ message: 'later' }] }] }), 'later'],
    [MIXED, parts({ data: {}, pending: [] }, { completed: [{ id: '0', errors: [{ message: 'last' }] }] }), 'last'],
  ])('of %s is found in %s', (type, text, message) => expect(find(type, text)).toBe(message));

  it('is found in parts whose boundary only the header names', () =>
    expect(find('multipart/mixed', parts({ errors: [{ message: 'late' }] }), 200, MIXED)).toBe('late'));

  it.each([
    ['application/json', '{"data":{},"errors":[]}'],
    ['application/json', '{"errors":"none"}'],
    ['application/json', '{"error":false,"errors":null}'],
    // A log is a list of records; that they tell of errors is what it is for.
    ['application/json', '[{"at":1,"error":"lapsed"},{"at":2,"errors":[1]}]'],
    ['application/json', '{"errors":[{"message":"cut'],
    ['application/problem+json', '{"title":'],
    ['text/html', '<script>x={"errors":[{"message":"no"}]}</script>'],
    ['multipart/form-data; boundary=q', parts({ errors: [{ message: 'a form, not an answer' }] })],
    [MIXED, parts({ data: { errors: ['a list of the data'] } })],
  ])('is none in %s %s', (type, text) => expect(find(type, text)).toBeUndefined());

  it('is none where the status says so already', () =>
    expect(find('application/json', '{"error":"lapsed"}', 401)).toBeUndefined());
});
