import { describe, expect, it } from 'vitest';
import { EMPTY_DRAFT, planMessage } from '../convert';
import { CASES } from '../convert/testing/cases';
import { own } from '../convert/testing/odd-texts';
import {
  attach,
  inlined,
  keptFrom,
  type OldKeptDraft,
  type PackedKeptDraft,
  packKept,
  readSheet,
  relayout,
  renamed,
  type Sheet,
  shareVariables,
  unpackKept,
  withSheet,
  withVariables,
  writeSheet,
} from './index';

const json = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

describe('a draft that is kept', () => {
  it('comes back from JSON as it was, bytes and all', () => {
    for (const { draft: make } of CASES) {
      const one = keptFrom('x', 'n', make('https://a.example'), 3);
      const packed = json(packKept(one)) as PackedKeptDraft;
      const back = unpackKept(packed);
      expect(json(packKept(back))).toEqual(packed);
      expect(planMessage(back.draft)).toEqual(planMessage(one.draft));
    }
  });

  it('is read as it was kept before there were sheets, its variables by their marks of now', () => {
    const old: OldKeptDraft = {
      id: 'x',
      name: 'old',
      spareQuery: ['spare=1'],
      loop: { kind: 'pages', parameter: 'page' },
      draft: {
        ...EMPTY_DRAFT,
        url: 'https://a.example/{{hut}}?q={{none}}',
        headers: [own('X-Token', '{{token}}')],
        payload: { type: 'parts', boundary: 'b', parts: [part('text', 'eHt7aHV0fX0='), part('gone')] },
        variables: [
          { name: 'hut', value: 'alba', isSecret: false },
          { name: 'token', value: 's', isSecret: true },
        ],
      },
    };
    const kept = unpackKept(old);
    expect(kept.sheet.text.split('\n').slice(0, 7)).toEqual([
      'GET https://a.example',
      '/‹hut›',
      '?q={{none}}',
      '✗ &spare=1',
      '',
      'X-Token: ‹token›',
      '',
    ]);
    expect(kept.draft.url).toBe('https://a.example/‹hut›?q={{none}}');
    expect(kept.draft.payload).toMatchObject({
      parts: [{ bytes: new Uint8Array(Buffer.from('x‹hut›')) }, { bytes: undefined }],
    });
    expect(kept.loop).toMatchObject({ kind: 'pages', parameter: 'page', pauseMs: expect.any(String) });
    expect(unpackKept(json(packKept(kept)))).toEqual({
      ...kept,
      draft: expect.objectContaining({ url: kept.draft.url }),
    });
  });
});

const part = (name: string, base64?: string) => ({
  name,
  fileName: undefined,
  contentType: undefined,
  ...(base64 === undefined ? {} : { base64 }),
});

describe('variables', () => {
  const of = (id: string, url: string, value: string) =>
    keptFrom(id, id, { ...EMPTY_DRAFT, url, variables: [{ name: 'hut', value, isSecret: false }] }, undefined);

  it('of several drafts are one list; a name that stood for two values is two', () => {
    const { drafts, variables } = shareVariables([
      of('a', 'https://a.example/‹hut›', 'alba'),
      of('b', 'https://a.example/‹hut›', 'alba'),
      of('c', 'https://a.example/‹hut›/‹hut›', 'jara'),
    ]);
    expect(variables.map(({ name, value }) => `${name}=${value}`)).toEqual(['hut=alba', 'hut_2=jara']);
    expect(drafts.map(({ draft }) => draft.url)).toEqual([
      'https://a.example/‹hut›',
      'https://a.example/‹hut›',
      'https://a.example/‹hut_2›/‹hut_2›',
    ]);
    expect(drafts.map(({ draft }) => planMessage(draft).target)).toEqual(['/alba', '/alba', '/jara/jara']);
  });

  it('are filled in with what they are now, and only where they stand', () => {
    const kept = of('a', 'https://a.example/‹hut›', 'alba');
    const others = [{ name: 'other', value: 'x', isSecret: false }];
    const changed = withVariables(kept, [{ name: 'hut', value: 'jara', isSecret: true }, ...others]);
    expect(planMessage(changed.draft).target).toBe('/jara');
    expect(changed.draft.variables).toHaveLength(1);
    // One that is gone is text again.
    expect(planMessage(withVariables(kept, others).draft).target).toBe('/%E2%80%B9hut%E2%80%BA');
  });

  it('are called otherwise and put back in the text itself', () => {
    expect(renamed('a ‹hut› ‹huts›', 'hut', 'place')).toBe('a ‹place› ‹huts›');
    expect(inlined('‹hut›/‹hut›', { name: 'hut', value: '$& ‹x›', isSecret: false })).toBe('$& ‹x›/$& ‹x›');
  });
});

describe('a payload laid out another way', () => {
  const text = (layout: Sheet['layout'], payload: string, type = ''): Sheet => ({
    text: `POST https://a.example\n\nX-A: b${type === '' ? '' : `\nContent-Type: ${type}`}\n\n${payload}`,
    layout,
    attachments: [],
  });
  const sent = (sheet: Sheet) => {
    const { headers, body } = planMessage(readSheet(sheet, EMPTY_DRAFT).draft);
    const type = headers.find(({ name }) => name === 'Content-Type')?.value;
    return [type, Buffer.from(body ?? []).toString()];
  };

  it.each([
    ['JSON as it stands', text('json', '{\n  "a": 1\n}', 'application/json'), 'plain', ['application/json', '{"a":1}']],
    ['text as JSON in one line', text('plain', '{"a":1}'), 'json', ['application/json', '{"a":1}']],
    ['text that is no JSON', text('plain', 'beds'), 'json', ['application/json', '{}']],
    ['text as fields', text('plain', 'a=1&b', 'text/plain'), 'fields', ['application/x-www-form-urlencoded', 'a=1&b']],
  ] as const)('%s', (_, sheet, layout, wanted) => expect(sent(relayout(sheet, layout))).toEqual(wanted));

  it('begins where there was none, with headers or without', () => {
    for (const head of ['POST https://a.example', 'POST https://a.example\n\nX-A: b']) {
      const begun = relayout({ text: head, layout: 'plain', attachments: [] }, 'json');
      expect(sent(begun)).toEqual(['application/json', '{}']);
      expect(readSheet(begun, EMPTY_DRAFT).problems).toEqual([]);
    }
    const form = relayout({ text: 'POST https://a.example', layout: 'plain', attachments: [] }, 'parts');
    expect(readSheet(form, EMPTY_DRAFT).draft.payload).toMatchObject({ type: 'parts', parts: [{ name: 'name' }] });
  });

  it('takes the bytes of a file, as a whole or as a part of a form', () => {
    const bytes = Uint8Array.of(0, 255, 10);
    const whole = attach(text('plain', 'old'), bytes, 0);
    expect(readSheet(whole, EMPTY_DRAFT).draft.payload).toEqual({ type: 'bytes', bytes });
    const parts = ['a', 'b'].map((name) => ({
      name,
      fileName: undefined,
      contentType: undefined,
      bytes: Buffer.from('x'),
    }));
    const form = writeSheet({
      ...EMPTY_DRAFT,
      url: 'https://a.example',
      payload: { type: 'parts', boundary: 'b', parts },
    });
    const at = form.text.split('\n').findIndex((line) => line.includes('name="b"'));
    const kept = withSheet(keptFrom('x', 'x', EMPTY_DRAFT, undefined), attach(form, bytes, at));
    expect(kept.draft.payload).toMatchObject({ parts: [{ bytes: new Uint8Array(Buffer.from('x')) }, { bytes }] });
    expect(unpackKept(json(packKept(kept))).draft.payload).toEqual(kept.draft.payload);
  });
});
