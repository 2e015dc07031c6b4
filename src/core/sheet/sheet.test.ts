import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bytesFromText } from '../content';
import { type Draft, EMPTY_DRAFT, payloadBytes, planMessage } from '../convert';
import { CASES } from '../convert/testing/cases';
import { own } from '../convert/testing/odd-texts';
import {
  countLeftOut,
  differences,
  groupsOf,
  readSheet,
  type Sheet,
  type SheetEdit,
  strikeByPreset,
  strikeLine,
  strikeRole,
  writeSheet,
} from './index';

const draft = (change: Partial<Draft> = {}): Draft => ({
  ...EMPTY_DRAFT,
  method: 'POST',
  url: 'https://api.cumbrera.example/holds?stale=1&x',
  headers: [own('content-type', 'application/json')],
  ...change,
});
const json = (text: string): Partial<Draft> => ({ payload: { type: 'text', text } });
const form = (text: string): Partial<Draft> => ({
  ...json(text),
  headers: [own('content-type', 'application/x-www-form-urlencoded')],
});
const sheet = (text: string, layout: Sheet['layout'] = 'plain'): Sheet => ({ text, layout, attachments: [] });
const sentOf = (one: Draft) => {
  const { method, scheme, authority, target, headers, body, file } = planMessage(one);
  return { method, scheme, authority, target, headers, file, body: body && Buffer.from(body).toString('latin1') };
};
const back = (one: Draft): Draft => readSheet(writeSheet(one), one).draft;
const applied = (one: Sheet, edits: readonly SheetEdit[]): Sheet => ({
  ...one,
  text: [...edits]
    .sort((a, b) => b.from - a.from)
    .reduce((text, { from, to, insert }) => text.slice(0, from) + insert + text.slice(to), one.text),
});
const bodyOf = (one: Draft): string => Buffer.from(payloadBytes(one.payload) ?? []).toString();

describe('a draft as a sheet', () => {
  it('is a message whose address stands on lines of its own, with what is left out struck', () => {
    const { text, layout } = writeSheet(
      draft({
        ...json('{"hut":"alba-norte","nights":3,"beds":[]}'),
        headers: [own('accept', '*/*'), { ...own('origin', 'https://www.cumbrera.example'), kept: false }],
      }),
      ['old=1'],
    );
    expect(layout).toBe('json');
    expect(text).toBe(
      [
        'POST https://api.cumbrera.example',
        '/holds',
        '?stale=1',
        '&x',
        '✗ &old=1',
        '',
        'accept: */*',
        '✗ origin: https://www.cumbrera.example',
        '',
        '{',
        '  "hut": "alba-norte",',
        '  "nights": 3,',
        '  "beds": []',
        '}',
      ].join('\n'),
    );
  });

  it.each(CASES.map(({ name, draft: of }) => [name, of('http://127.0.0.1:9')] as const))(
    'sends the same: %s',
    (_, one) => expect(sentOf(back(one))).toEqual(sentOf(one)),
  );

  it('sends the same whatever the address, the headers and the payload are', () => {
    const word = fc.string({ unit: 'grapheme', maxLength: 8 }).map((one) => one.replace(/[\n␊‹›]/g, ''));
    const name = fc.stringMatching(/^[A-Za-z-]{1,6}$/);
    const raw = fc.oneof(
      fc.jsonValue().map((one) => JSON.stringify(one)),
      fc.constantFrom(
        'a=1&b=%20&&c',
        '{"q":"a\\nb\\n","v":[1,{}]}',
        '{"a":1.0,"a":12345678901234567890}',
        '✗ a\n✗ b',
        '\n\n',
      ),
      fc.string(),
    );
    const payload = fc.oneof(
      raw.map((text) => ({ type: 'text', text }) as const),
      fc.uint8Array({ minLength: 1, maxLength: 9 }).map((bytes) => ({ type: 'bytes', bytes }) as const),
      fc
        .array(
          fc.record({
            name: word,
            fileName: fc.option(word, { nil: undefined }),
            contentType: fc.constantFrom(undefined, 'text/plain'),
            bytes: fc.oneof(fc.uint8Array({ maxLength: 6 }), raw.map(bytesFromText)),
          }),
          { maxLength: 3 },
        )
        .map((parts) => ({ type: 'parts', parts, boundary: 'x--y' }) as const),
    );
    const drafts = fc.record({
      path: fc.constantFrom('', '/', '/a', '//b', '/a b', '/%zz'),
      query: fc.array(fc.constantFrom('a=1', 'a', '', '=', 'b=?', '✗ c', 'd=%2f'), { maxLength: 4 }),
      headers: fc.array(fc.record({ name, value: word.map((one) => one.trim()), kept: fc.boolean() }), {
        maxLength: 4,
      }),
      type: fc.constantFrom(
        'application/json',
        'application/x-www-form-urlencoded',
        'multipart/form-data; boundary=x--y',
      ),
      payload,
    });
    fc.assert(
      fc.property(drafts, ({ path, query, headers, type, payload: one }) => {
        const given = draft({
          url: `https://a.example${path}${query.length === 0 ? '' : `?${query.join('&')}`}`,
          headers: [
            own('Content-Type', type),
            ...headers.map((header) => ({ ...own(header.name, header.value), kept: header.kept })),
          ],
          payload: one,
        });
        expect(sentOf(back(given))).toEqual(sentOf(given));
        // What is left out stays there, to be restored.
        expect(back(given).headers.map(({ kept }) => kept)).toEqual(given.headers.map(({ kept }) => kept));
      }),
      { seed: 18, numRuns: 600 },
    );
  });
});

describe('a sheet as it is edited', () => {
  it.each([
    ['the blank line gone', 'GET https://a.example\n/x\naccept: a\n\nb', 'https://a.example/x', ['accept: a'], 'b'],
    ['no headers', 'PUT https://a.example\n\n\nb\n', 'https://a.example', [], 'b\n'],
    ['all pieces struck but one', 'GET https://a.example\n/x\n✗ ?a=1\n&b=2', 'https://a.example/x?b=2', [], ''],
    ['blanks before', 'GET https://a.example\n   /x\n  ?a=1', 'https://a.example/x?a=1', [], ''],
    ['the whole address on one line', 'GET https://a.example/x?a=1', 'https://a.example/x?a=1', [], ''],
  ])('%s', (_, text, url, headers, body) => {
    const { draft: read, problems } = readSheet(sheet(text), EMPTY_DRAFT);
    expect(read.url).toBe(url);
    expect(read.headers.map(({ name, value }) => `${name}: ${value}`)).toEqual(headers);
    expect(bodyOf(read)).toBe(body);
    expect(problems).toEqual([]);
  });

  it.each([
    ['GET', 'Behind the method stand scheme and host', 'GET'],
    [' https://a.example', 'The sheet begins with the method', ''],
    ['GET https://', 'The host is missing', 'https://'],
    ['GET ftp://a.example', 'Only http and https', 'ftp'],
    ['GET https://a.example\n/a b', 'sent as %20', ' '],
    ['GET https://a.example\n?q=é', 'sent as %C3%A9', 'é'],
    ['GET https://bücher.example:81', 'goes out as xn--bcher-kva.example:81.', 'bücher.example:81'],
    ['GET https://ana:p@ü.example\n/x', 'goes out as xn--tda.example.', 'ü.example'],
    ['GET https://a b.example', 'No host is written so.', 'a b.example'],
    ['GET https://a.example\n/x#top\n?q=1', 'What stands behind # is for browsers alone', '#top'],
    ['GET https://a.example\n\naccept', 'A header is its name, a colon', 'accept'],
    ['GET https://a.example\n\na b: c', 'No header has such a name', 'a b'],
    ['GET https://a.example\n\na: b\u0007', 'control characters', ' b\u0007'],
    ['GET https://a.example\n?q=‹hut›', 'There is no variable "hut"', '‹hut›'],
    ['POST https://a.example\n\n\n{\n  "a": 1\n  "b": 2\n}', 'Not JSON: a comma or }', '"b"', 'json'],
    ['POST https://a.example\n\n\n{\n  "a": ‹x,\n}', 'Not JSON: a value', '‹x', 'json'],
    ['POST https://a.example\n\n\na=1\n&b=ü', 'written %C3%BC', 'ü', 'fields'],
    ['POST https://a.example\n\n\nhello', 'begins with its boundary', 'hello', 'parts'],
    ['POST https://a.example\n\n\n--x\n\nhello\n--x--', 'A part needs its name', '--x', 'parts'],
    ['POST https://a.example\n\n\n[attached: 1 B, ff]', 'No bytes of this name', '[attached: 1 B, ff]', 'bytes'],
  ] as const)('%j is told of where it is', (text, sentence, place, layout: Sheet['layout'] = 'plain') => {
    const { problems } = readSheet(sheet(text, layout), EMPTY_DRAFT);
    expect(problems).toHaveLength(1);
    expect(problems[0]?.sentence).toContain(sentence);
    expect(text.slice(problems[0]?.from, problems[0]?.to)).toBe(place);
  });

  it('sends nothing of what stands behind #', () => {
    const text = 'GET https://a.example/#/huts\n/x#top\n?q=1#end';
    expect(readSheet(sheet(text), EMPTY_DRAFT).draft.url).toBe('https://a.example//x?q=1');
  });

  it('has no remark on what was struck, and none on variables that are there', () => {
    const text = 'GET https://a.example\n✗ ?a b\n&q=‹hut›\n\n✗ a b: ‹none›';
    const variables = [{ name: 'hut', value: 'alba', isSecret: false }];
    const { problems, draft: read } = readSheet(sheet(text), EMPTY_DRAFT, variables);
    expect(problems).toEqual([]);
    expect(sentOf(read).target).toBe('/?q=alba');
  });
});

describe('leaving lines out', () => {
  const strike = (one: Sheet, at: number): Sheet =>
    applied(one, strikeLine(readSheet(one, EMPTY_DRAFT).lines, at, one.layout));
  const body = (one: Sheet): string => bodyOf(readSheet(one, EMPTY_DRAFT).draft);
  const lineOf = (one: Sheet, text: string): number =>
    one.text.split('\n').findIndex((line) => line.replace('✗ ', '').trimStart().startsWith(text));

  it.each([
    ['the first member', '"a": 1', '{"b":{"c":[1,2]},"d":"x\\ny"}'],
    ['a member with all that is in it', '"b": {', '{"a":1,"d":"x\\ny"}'],
    ['an element', '2', '{"a":1,"b":{"c":[1]},"d":"x\\ny"}'],
    ['a string of several lines, by any of them', 'y', '{"a":1,"b":{"c":[1,2]}}'],
    ['never what only closes a bracket', '},', '{"a":1,"b":{"c":[1,2]},"d":"x\\ny"}'],
  ])('of JSON: %s', (_, line, left) => {
    const whole = writeSheet(draft(json('{"a":1,"b":{"c":[1,2]},"d":"x\\ny"}')));
    const struck = strike(whole, lineOf(whole, line));
    expect(body(struck)).toBe(left);
    expect(strike(struck, lineOf(struck, line)).text).toBe(whole.text);
  });

  it('of a form, of a query, and of a form of parts as a whole', () => {
    const fields = writeSheet(draft(form('a=1&b=2&c=3')));
    expect(body(strike(fields, lineOf(fields, 'a=1')))).toBe('b=2&c=3');
    expect(body(strike(fields, lineOf(fields, '&b=2')))).toBe('a=1&c=3');
    const part = (name: string) => ({
      name,
      fileName: undefined,
      contentType: undefined,
      bytes: bytesFromText(`of ${name}`),
    });
    const parts = writeSheet(draft({ payload: { type: 'parts', boundary: 'b', parts: [part('one'), part('two')] } }));
    const struck = strike(parts, lineOf(parts, 'of one'));
    expect(body(struck)).not.toContain('one');
    expect(body(struck)).toContain('of two');
    expect(strike(parts, lineOf(parts, '--b--')).text).toBe(parts.text);
    const read = readSheet(strike(fields, lineOf(fields, '?stale')), EMPTY_DRAFT).draft;
    expect(read.url).toBe('https://api.cumbrera.example/holds?x');
  });

  it('never the method, the path, or text as it stands', () => {
    const whole = writeSheet(draft({ headers: [], ...json('two\nlines') }));
    for (const line of ['POST', '/holds', 'two']) expect(strike(whole, lineOf(whole, line)).text).toBe(whole.text);
  });

  it('by what headers are for, and by a preset', () => {
    const captured = draft({
      headers: [
        own('accept', '*/*'),
        { ...own('origin', 'https://www.cumbrera.example'), role: 'browser-colour' },
        { ...own('content-length', '3'), role: 'computed', kept: false },
        { ...own('sec-fetch-mode', 'cors'), role: 'browser-colour' },
      ],
    });
    const whole = writeSheet(captured);
    const sentBy = (one: Sheet): string[] =>
      readSheet(one, captured).draft.headers.flatMap(({ name, kept }) => (kept ? [name] : []));
    const lean = applied(whole, strikeByPreset(readSheet(whole, captured), 'lean'));
    expect(sentBy(lean)).toEqual(['accept']);
    // What was left out by hand comes back with a preset, too.
    expect(sentBy(applied(lean, strikeByPreset(readSheet(lean, captured), 'faithful')))).toEqual([
      'accept',
      'origin',
      'sec-fetch-mode',
    ]);
    const without = applied(whole, strikeRole(readSheet(whole, captured), 'browser-colour'));
    expect(without.text).toBe(lean.text);
    expect(applied(without, strikeRole(readSheet(without, captured), 'browser-colour')).text).toBe(whole.text);
    expect(
      groupsOf(readSheet(whole, captured), 'plain').map(({ id, from, to, reason }) => [
        id,
        from,
        to,
        reason !== undefined,
      ]),
    ).toEqual([
      ['address', 0, 3, false],
      ['own', 5, 5, false],
      ['browser-colour', 6, 6, true],
      ['computed', 7, 7, true],
      ['browser-colour', 8, 8, false],
    ]);
  });
});

it('names the operation of a GraphQL payload in its margin', () => {
  const one = draft(json('{"operationName":"HutCard","query":"query HutCard {\\n  hut\\n}"}'));
  const labels = groupsOf(readSheet(writeSheet(one), one), 'json').map(({ label }) => label);
  expect(labels.at(-1)).toMatch(/^GraphQL query HutCard; JSON, sent in one line, \d+ B$/);
});

describe('what was there', () => {
  it('is told for each line that says something else', () => {
    const captured = writeSheet(draft(json('{"hut":"alba-norte","nights":3,"note":"dog"}')));
    const text = captured.text
      .replace('"nights": 3', '"nights": 5')
      .replace('stale=1', 'stale=2')
      .replace('&x', '&x\n&new=1')
      .replace('content-type: application/json', 'Content-Type: text/plain\n✗ accept: */*')
      .replace('"note": "dog"', '"note": "dog",\n  "more": 1');
    const lines = text.split('\n');
    const told = differences(captured, { ...captured, text }).map(({ at, was }) => [lines[at]?.trim(), was]);
    expect(told).toEqual([
      ['?stale=2', '1'],
      ['&new=1', undefined],
      ['Content-Type: text/plain', 'application/json'],
      ['"nights": 5,', '3'],
      ['"note": "dog",', '"dog"'],
      ['"more": 1', undefined],
    ]);
    expect(differences(captured, captured)).toEqual([]);
    // A line that is left out says nothing else, and is counted; one that was left out before is not.
    const struck = { ...captured, text: captured.text.replace('?stale', '✗ ?stale').replace('  "hut"', '✗   "hut"') };
    expect(differences(captured, struck)).toEqual([]);
    expect([countLeftOut(captured, captured), countLeftOut(captured, struck), countLeftOut(struck, struck)]).toEqual([
      0, 2, 1,
    ]);
  });
});
