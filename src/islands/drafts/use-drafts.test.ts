import { describe, expect, it } from 'vitest';
import { EMPTY_DRAFT } from '#core/convert';
import { keptFrom, type SharedVariable, withSheet } from '#core/sheet';
import type { KeptDrafts } from './draft-api';
import { capturedDraftName, freeDraftName, takenBack } from './use-drafts';

const variable = (name: string, value = 'x'): SharedVariable => ({ name, value, isSecret: false });
const draft = (id: string, path: string) =>
  withSheet(keptFrom(id, id, EMPTY_DRAFT, undefined), {
    text: `GET https://a.example\n${path}`,
    layout: 'plain',
    attachments: [],
  });
const of = (paths: Readonly<Record<string, string>>, variables: readonly SharedVariable[]): KeptDrafts => ({
  drafts: Object.entries(paths).map(([id, path]) => draft(id, path)),
  variables,
});
const pathsOf = ({ drafts }: KeptDrafts): string[] => drafts.map(({ sheet }) => sheet.text.split('\n')[1] ?? '');

describe('a change of variables that is taken back', () => {
  const before = of({ one: '/‹hut›', two: '/‹hut›/x' }, [variable('hut', 'alba'), variable('day')]);
  const after = of({ one: '/alba', two: '/alba/x' }, [variable('day')]);

  it('gives the variable and the sheets back that it was taken from', () => {
    const back = takenBack(before, after, after);
    expect(pathsOf(back)).toEqual(['/‹hut›', '/‹hut›/x']);
    expect(back.variables.map(({ name, value }) => `${name}=${value}`)).toEqual(['day=x', 'hut=alba']);
    expect(back.drafts[0]?.draft.variables.map(({ value }) => value)).toEqual(['alba']);
  });

  it('leaves alone what was changed since: a sheet, a draft that is new, a value', () => {
    const now = of({ one: '/alba', two: '/jara/x', three: '/new' }, [variable('day', 'changed')]);
    const back = takenBack(before, after, now);
    expect(pathsOf(back)).toEqual(['/‹hut›', '/jara/x', '/new']);
    expect(back.variables.map(({ name, value }) => `${name}=${value}`)).toEqual(['day=changed', 'hut=alba']);
  });

  it('takes a variable away that came with it', () => {
    const back = takenBack(after, before, before);
    expect(pathsOf(back)).toEqual(['/alba', '/alba/x']);
    expect(back.variables.map(({ name }) => name)).toEqual(['day']);
  });
});

it('gives a draft a name that no other one has', () => {
  const others = ['a', 'a, 2'].map((name) => ({ ...draft(name, '/'), name }));
  expect(freeDraftName('b', others)).toBe('b');
  expect(freeDraftName('a', others)).toBe('a, 3');
});

it.each([
  ['https://a.example/huts/alba?beds=2', 'GET alba (#4)'],
  ['https://a.example/huts/', 'GET /huts/ (#4)'],
  ['https://a.example', 'GET / (#4)'],
  // The whole path comes from a Location.
  ['https://a.example‹place›', 'GET 7 (#4)'],
  ['https://a.example/stays/‹place›', 'GET 7 (#4)'],
])('calls a draft of %s as its path ends', (url, name) => {
  expect(capturedDraftName({ ...EMPTY_DRAFT, url, variables: [variable('place', '/stays/7')] }, 4)).toBe(name);
});
