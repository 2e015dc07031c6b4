import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bytesFromText } from '../content';
import { type Draft, defaultFor, EMPTY_DRAFT, headerRole, payloadFields, readPiece, splitQuery } from '../convert';
import { type KeptDraft, keptFrom, STRUCK, withSheet } from '../sheet';
import type { HeldResponse } from '../trial';
import { clientAgentOf, partName, partsOf, type TrimOutcome, tellReason, trimDraft, withoutParts } from './index';

const draftOf = (change: Partial<Draft>, headers: readonly [string, string][] = []): Draft => {
  const url = change.url ?? 'https://api.cumbrera.example/huts';
  const method = change.method ?? 'GET';
  const all = headers.map(([name, value]) => {
    const role = headerRole({ name, value }, { url, method });
    return { name, value, role, ...defaultFor(role, 'faithful') };
  });
  return { ...EMPTY_DRAFT, ...change, url, method, headers: all };
};
const kept = (draft: Draft): KeptDraft => keptFrom('d', 'draft', draft, undefined);
const namesOf = (draft: Draft): string[] =>
  partsOf(kept(draft))
    .flatMap((part) => [part, ...part.inside])
    .map(partName);

/** What of a draft is sent, by the names of parts. */
function sentBy({ url, headers, payload }: Draft): string[] {
  const query = splitQuery(url).pieces.map((piece) => `parameter ${readPiece(piece).name}`);
  const ofHead = headers
    .filter((header) => header.kept)
    .flatMap(({ name, value }) =>
      name === 'Cookie' ? value.split('; ').map((pair) => `cookie ${pair.split('=')[0]}`) : [`header ${name}`],
    );
  const text = payload.type === 'text' ? payload.text : '';
  const fields = text === '' ? [] : [...(payloadFields(bytesFromText(text)) ?? new Map()).keys()];
  const ofParts = payload.type === 'parts' ? payload.parts.map(({ name }) => `field ${name}`) : [];
  return [...query, ...ofHead, ...fields.map((path) => `field ${path.replace(/^\$\.?/, '')}`), ...ofParts];
}

const HEADERS: readonly [string, string][] = [
  ['Host', 'api.cumbrera.example'],
  ['User-Agent', 'Walker/5.0'],
  ['Accept', 'application/json'],
  ['Cookie', 'sid=a1; theme=dark; lang='],
  ['Authorization', 'Bearer walker'],
  ['Sec-Fetch-Mode', 'cors'],
  ['Content-Type', 'application/x-www-form-urlencoded'],
  ['Content-Length', '12'],
];

describe('the parts of a draft', () => {
  it('are its parameters, headers but those that clients compute, cookies and fields', () => {
    const url = 'https://api.cumbrera.example/huts?page=2&size=&page=3';
    expect(namesOf(draftOf({ url, payload: { type: 'text', text: 'from=a&to=b' } }, HEADERS))).toEqual([
      'parameter page',
      'parameter size',
      'parameter page',
      'header User-Agent',
      'header Accept',
      'cookie sid',
      'cookie theme',
      'cookie lang',
      'header Authorization',
      'header Sec-Fetch-Mode',
      'header Content-Type',
      'field from',
      'field to',
    ]);
  });

  it('are members of JSON, those of objects inside of these, and none that is deeper or of a list', () => {
    const text = JSON.stringify({ a: 1, b: { c: { d: 1 }, 'e"\n': [{ f: 1 }] }, g: [{ h: 1 }], i: 'x: {' });
    const json = draftOf({ method: 'POST', payload: { type: 'text', text } }, [['Content-Type', 'application/json']]);
    expect(partsOf(kept(json)).map(({ name, inside }) => [name, inside.map((part) => part.name)])).toEqual([
      ['Content-Type', []],
      ['a', []],
      ['b', ['c', 'e"\n']],
      ['g', []],
      ['i', []],
    ]);
    for (const other of ['[1,2]', '"text"', 'no JSON', '{'])
      expect(namesOf(draftOf({ method: 'POST', payload: { type: 'text', text: other } }))).toEqual([]);
  });

  it('are those that are sent: what is struck is none', () => {
    const one = kept(draftOf({ url: 'https://a.example/?a=1&b=2' }, HEADERS));
    const sheet = {
      ...one.sheet,
      text: one.sheet.text.replace('&b', `${STRUCK}&b`).replace('Accept', `${STRUCK}Accept`),
    };
    const names = partsOf(withSheet(one, sheet)).map(partName);
    expect(names).toContain('parameter a');
    expect(names).not.toContain('parameter b');
    expect(names).not.toContain('header Accept');
  });

  const word = fc.stringMatching(/^[a-z]{1,6}$/);
  const payloads = fc.oneof(
    fc.constant({ type: 'none' } as const),
    fc
      .uniqueArray(word, { minLength: 1, maxLength: 5 })
      .map((names) => ({ type: 'text', text: names.map((name) => `${name}=1`).join('&') }) as const),
    fc
      .uniqueArray(word, { minLength: 1, maxLength: 5 })
      .map(
        (names) =>
          ({ type: 'text', text: JSON.stringify(Object.fromEntries(names.map((name, at) => [name, at]))) }) as const,
      ),
    fc.uniqueArray(word, { minLength: 1, maxLength: 4 }).map(
      (names) =>
        ({
          type: 'parts',
          boundary: 'b0',
          parts: names.map((name) => ({
            name,
            fileName: undefined,
            contentType: undefined,
            bytes: bytesFromText(`${name}\n`),
          })),
        }) as const,
    ),
  );
  it('that are left out are not sent, and all others are, whichever they are', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(word, { maxLength: 5 }),
        fc.uniqueArray(word, { maxLength: 5 }),
        payloads,
        fc.infiniteStream(fc.boolean()),
        (query, cookies, payload, choices) => {
          const type =
            payload.type === 'parts'
              ? 'multipart/form-data; boundary=b0'
              : payload.type === 'text' && payload.text.startsWith('{')
                ? 'application/json'
                : 'application/x-www-form-urlencoded';
          const headers: [string, string][] = [
            ['X-One', '1'],
            ['Accept', '*/*'],
            ['Content-Type', type],
          ];
          if (cookies.length > 0) headers.push(['Cookie', cookies.map((name) => `${name}=1`).join('; ')]);
          const url = `https://a.example/x${query.length === 0 ? '' : `?${query.map((name) => `${name}=1`).join('&')}`}`;
          const one = kept(draftOf({ url, method: 'POST', payload }, headers));
          const parts = partsOf(one);
          expect(parts.map(partName).sort()).toEqual(sentBy(one.draft).sort());
          const gone = parts.filter(() => choices.next().value);
          const after = withSheet(one, withoutParts(one.sheet, gone)).draft;
          const wanted = parts.filter((part) => !gone.includes(part)).map(partName);
          expect(sentBy(after).sort()).toEqual(wanted.sort());
        },
      ),
      { seed: 5, numRuns: 600 },
    );
  });
});

const respond = (status: number, body: unknown, headers: HeldResponse['headers'] = []): HeldResponse => ({
  status,
  headers: [{ name: 'Content-Type', value: 'application/json' }, ...headers],
  body: { type: 'text', text: JSON.stringify(body) },
});

interface Options {
  readonly captured?: HeldResponse;
  readonly measure?: 'captured' | 'now';
  readonly clientAgent?: string | undefined;
  readonly mostSends?: number;
  readonly stopAfter?: number;
}
/** Trims a draft against a made server. */
async function trimmed(
  draft: Draft,
  server: (draft: Draft, nth: number) => HeldResponse | string,
  options: Options = {},
) {
  const labels: string[] = [];
  const outcome = await trimDraft({
    kept: kept(draft),
    captured: options.captured,
    measure: options.measure ?? 'captured',
    clientAgent: options.clientAgent,
    mostSends: options.mostSends ?? 80,
    ask: async (step) => {
      labels.push(step.label);
      const heard = server(step.draft, labels.length);
      if (typeof heard === 'string') return { type: 'none', sentence: heard };
      return heard.status === 429 ? { type: 'busy', status: 429 } : { type: 'response', response: heard };
    },
    onReply: () => undefined,
    isStopped: () => labels.length >= (options.stopAfter ?? Number.POSITIVE_INFINITY),
  });
  return { outcome, labels };
}
const neededOf = (outcome: TrimOutcome): string[] =>
  outcome.type === 'found' ? outcome.found.needed.map((one) => `${partName(one.part)}: ${tellReason(one)}`) : [];

const header = (draft: Draft, wanted: string): string | undefined =>
  draft.headers.find(({ name, kept: isKept }) => isKept && name.toLowerCase() === wanted)?.value;

const DRAFT = draftOf({ url: 'https://api.cumbrera.example/huts?page=2&_=17' }, HEADERS.slice(0, 6));
/** Needs a session by token or cookie, and turns the page by its parameter; the time in it is new each time. */
function huts(draft: Draft, nth: number): HeldResponse {
  const isKnown = header(draft, 'authorization') !== undefined || /sid=a1/.test(header(draft, 'cookie') ?? '');
  if (!isKnown) return respond(401, { error: 'sign in' });
  const page = new URL(draft.url).searchParams.get('page') ?? '1';
  return respond(200, { page, huts: [`hut ${page}`], took: `${nth * 7} ms`, madeAt: nth });
}

describe('a trim', () => {
  it('finds what a server needs, why, and what would do instead', async () => {
    const { outcome, labels } = await trimmed(DRAFT, huts);
    expect(neededOf(outcome)).toEqual([
      'parameter page: without it $.page is different, and 1 other place',
      'cookie sid: without sid 401; header Authorization would do instead',
    ]);
    expect(outcome.sentence).toBe('2 of 9 parts are needed: each makes a difference.');
    expect(labels.slice(0, 3)).toEqual(['unchanged', 'unchanged', 'without header Sec-Fetch-Mode']);
  });

  it('ends where the same is not given twice alike', async () => {
    const { outcome, labels } = await trimmed(DRAFT, (_, nth) => respond(nth % 2 === 0 ? 200 : 500, {}));
    expect(outcome).toEqual({
      type: 'unsteady',
      sentence: 'The unchanged draft does not get the same response twice: 500, then 200.',
    });
    expect(labels).toHaveLength(2);
    const shape = await trimmed(DRAFT, (_, nth) => respond(200, nth === 1 ? { a: 1 } : { b: 1 }));
    expect(shape.outcome.type).toBe('unsteady');
  });

  it('asks which is the measure where the response is not the captured one', async () => {
    const captured = respond(200, { huts: [] });
    const expired = () => respond(401, { error: 'sign in' });
    expect((await trimmed(DRAFT, expired, { captured })).outcome).toEqual({
      type: 'other',
      sentence: 'The response is 401 now, not 200 as captured. A token or session may have expired.',
    });
    const now = await trimmed(DRAFT, expired, { captured, measure: 'now' });
    expect(now.outcome.sentence).toBe('None of the 9 parts is needed.');
    const other = await trimmed(DRAFT, () => respond(200, { huts: ['one more'] }), { captured });
    expect(other.outcome.sentence).toBe('The response is not as captured: $.huts[0] is new.');
  });

  it('takes a response for the same that differs in what browsers, caches and cookie jars read', async () => {
    const server = (draft: Draft) =>
      respond(200, { huts: [] }, [
        ...(header(draft, 'cookie') === undefined ? [{ name: 'Set-Cookie', value: 'sid=new' }] : []),
        ...(header(draft, 'sec-fetch-mode') === 'cors' ? [{ name: 'Access-Control-Allow-Origin', value: '*' }] : []),
        { name: 'Vary', value: header(draft, 'accept') ?? '*' },
      ]);
    expect((await trimmed(DRAFT, server)).outcome.sentence).toBe('None of the 9 parts is needed.');
  });

  it('sends what the client of the code sends, where the user agent is left out', async () => {
    const server = (draft: Draft) =>
      /^(?:Walker|Ruby)/.test(header(draft, 'user-agent') ?? '') ? respond(200, {}) : respond(403, {});
    const none = await trimmed(DRAFT, server);
    expect(neededOf(none.outcome)).toEqual(['header User-Agent: without it 403']);
    const ruby = await trimmed(DRAFT, server, { clientAgent: clientAgentOf('ruby', 'Walker/5.0') });
    expect(neededOf(ruby.outcome)).toEqual([]);
    expect(clientAgentOf('js-fetch', 'Walker/5.0')).toBe('Walker/5.0');
  });

  it('tells what it knows where it is stopped, or where too many would be sent', async () => {
    const most = await trimmed(DRAFT, huts, { mostSends: 6 });
    expect(most.labels).toHaveLength(6);
    expect(most.outcome.sentence).toMatch(/^Stopped after 6 trials: \d part/);
    const stopped = await trimmed(DRAFT, huts, { stopAfter: 5 });
    expect(stopped.outcome).toMatchObject({ type: 'found', found: { isProven: false } });
    expect((await trimmed(DRAFT, huts, { stopAfter: 1 })).outcome.type).toBe('nothing');
  });

  it('is sure of nothing where the server refuses whoever asks so often', async () => {
    const banned = await trimmed(DRAFT, (draft, nth) => (nth > 6 ? respond(403, {}) : huts(draft, nth)));
    expect(banned.labels.at(-1)).toBe('the result once more');
    expect(banned.outcome).toMatchObject({ type: 'found', found: { isProven: false } });
    expect(banned.outcome.sentence).toContain('Not sure: the result once more got another response (403).');
    const busy = await trimmed(DRAFT, (draft, nth) => (nth > 6 ? respond(429, {}) : huts(draft, nth)));
    expect(busy.labels).toHaveLength(7);
    expect(busy.outcome.sentence).toMatch(/^The server puts off what it is asked \(429\)\. Stopped: /);
    expect((await trimmed(DRAFT, () => respond(429, {}))).outcome.type).toBe('nothing');
  });

  it('is nothing where no response comes, or nothing can be left out', async () => {
    expect((await trimmed(DRAFT, () => 'The connection was refused.')).outcome).toEqual({
      type: 'nothing',
      sentence: 'The connection was refused.',
    });
    expect((await trimmed(draftOf({}), huts)).outcome.type).toBe('nothing');
  });
});
