import { describe, expect, it } from 'vitest';
import { type Draft, EMPTY_DRAFT } from '#core/convert';
import { asKind, jsonProblem, KIND_LABELS, kindOf, readOperation, writeOperation } from './payload-type';

const draftOf = (text: string, type?: string): Draft => ({
  ...EMPTY_DRAFT,
  headers: type === undefined ? [] : [{ name: 'content-type', value: type, role: 'own', kept: true, reason: '' }],
  payload: { type: 'text', text },
});

describe('the kind of a payload', () => {
  it.each([
    ['{"a":1}', 'application/json', 'json'],
    ['{"query":"query Huts { huts { name } }","variables":{"n":1}}', 'application/json', 'graphql'],
    ['{"query":"alba"}', 'application/json', 'json'],
    ['a=1', 'application/x-www-form-urlencoded; charset=UTF-8', 'form'],
    ['[1]', undefined, 'json'],
    ['plain', 'text/plain', 'text'],
  ])('of %s with the type %s is %s', (text, type, kind) => expect(kindOf(draftOf(text, type))).toBe(kind));

  it.each(KIND_LABELS.map(([kind]) => kind))('may be changed to %s and is that then', (kind) => {
    const changed = asKind(draftOf('{"a":1}', 'application/json'), kind);
    expect(kindOf(changed)).toBe(kind);
    const types = changed.headers.filter(({ name }) => name.toLowerCase() === 'content-type');
    expect(types).toHaveLength(kind === 'none' || kind === 'parts' ? 0 : 1);
  });

  it('keeps what it says where the other kind can hold it', () => {
    const there = asKind(draftOf('{"a":1}', 'application/json'), 'bytes');
    expect(asKind(there, 'json').payload).toEqual({ type: 'text', text: '{"a":1}' });
  });
});

describe('an operation', () => {
  it('is taken apart and merged again with all that it has', () => {
    const text = '{"operationName":"Huts","query":"query Huts { huts }","variables":{"n":1}}';
    const { query, variables, rest } = readOperation(text) ?? { query: '', variables: '', rest: {} };
    expect(JSON.parse(writeOperation(query, variables, rest) ?? '')).toEqual(JSON.parse(text));
    expect(writeOperation(query, '{', rest)).toBeUndefined();
  });
});

describe('JSON that is being written', () => {
  it('may have variables where values stand', () => expect(jsonProblem('{"a":{{hut}},"b":"{{hut}}"}')).toBeUndefined());
  it('says what is wrong with it', () => expect(jsonProblem('{"a":}')).toMatch(/JSON|token/i));
});
