import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { inflateWithZlib } from '../../server/inflate';
import { type JsonObject, normaliseEntry } from '../har';
import { placeOf, takeValue } from '../sheet';
import {
  DEFAULT_OPTIONS,
  type Draft,
  EMPTY_DRAFT,
  fillIn,
  findCarries,
  findTarget,
  isToBeEncoded,
  renderLoop,
  renderScript,
  type Sequence,
  type SequenceStep,
  stepOf,
  tellCarry,
  withoutAttempts,
} from './index';
import { replaceShortIds } from './short-ids';
import { startEcho } from './testing/echo';
import { own } from './testing/odd-texts';
import { itNeeding, RUN_TARGETS, type RunTarget, SCRIPT_COMMANDS, SCRIPT_NEEDS } from './testing/tools';

const run = promisify(execFile);

/** A service that gives each visitor a token, a cookie and a hold of their own, and takes no others. */
let server: Server;
let origin: string;
let served: string[] = [];
let visits = 0;
let orders = 100;
const ticket = (visit: number): string => `a%2Bb-${visit}%2f%3D`;
const formKey = (visit: number): string => `a+b/${visit}'$x==`;
/** A form of lines as machines end them, which no shell's word holds. */
const gateForm = (key: string): string =>
  `--b\r\nContent-Disposition: form-data; name="a%sb"\r\n\r\n${key}\r\n--b--\r\n`;
/** How often it is too busy for a hold. */
let busyTimes = 0;
beforeAll(async () => {
  server = createServer((request, response) => {
    const token = `token-of-visit-${visits}`;
    const chunks: Buffer[] = [];
    request.on('data', (chunk: Buffer) => chunks.push(chunk));
    request.on('end', () => {
      const body = Buffer.concat(chunks).toString();
      const answer = (status: number, value: unknown, headers: Record<string, string> = {}): void => {
        served.push(
          `${request.method} ${request.url
            ?.replace(/hold-\d+-x/, 'HOLD')
            .replace(/orders\/\d+/, 'orders/ORDER')
            .replace(/\?at=.*/, '?at=CURSOR')} ${status}`,
        );
        response.writeHead(status, { 'content-type': 'application/json', ...headers }).end(JSON.stringify(value));
      };
      if (request.url === '/form') {
        visits++;
        served.push('GET /form');
        response
          .writeHead(200, { 'content-type': 'text/html' })
          .end(`<input name="other" value="no">\n<input\n name='it"s $key' value="${formKey(visits)}"> é <p>"`);
      } else if (request.url === '/gate') {
        visits++;
        const gate = { 'X-CSRF-Token': `${formKey(visits)};q`, ETag: `"rev-${visits}-of-gate"` };
        answer(200, {}, { Vary: 'Accept', ...gate });
      } else if (request.url === '/gate-form') {
        answer(body === gateForm(`${formKey(visits)};q`) ? 200 : 403, {});
      } else if (request.url?.startsWith('/gate?by=')) {
        const isIts = decodeURIComponent(request.url.slice(9)) === `${formKey(visits)};q`;
        answer(isIts && request.headers['if-match'] === `"rev-${visits}-of-gate"` ? 200 : 412, {});
      } else if (request.url === '/authorize') {
        visits++;
        answer(
          302,
          {},
          { Location: `/back?state=9#ticket=${ticket(visits)}`, 'Set-Cookie': `XSRF=${ticket(visits)}; Path=/` },
        );
      } else if (request.url === '/token')
        answer(
          body === `ticket=${ticket(visits)}` && request.headers['x-xsrf'] === decodeURIComponent(ticket(visits))
            ? 200
            : 403,
          {},
        );
      else if (request.url === '/sign-in') {
        visits++;
        answer(302, {}, { Location: '/welcome', 'Set-Cookie': `stay=stay-of-${visits}-x; Path=/` });
      } else if (request.url === '/welcome')
        answer(request.headers.cookie === `stay=stay-of-${visits}-x` ? 200 : 401, {});
      else if (request.url === '/signed') answer(decodeURIComponent(body) === `key=${formKey(visits)}` ? 200 : 403, {});
      else if (request.url === '/cursor') answer(200, { next: `${formKey(visits)} &é` });
      else if (request.url?.startsWith('/next'))
        answer(decodeURIComponent(request.url) === `/next?at=${formKey(visits)} &é` ? 200 : 404, {});
      else if (request.url === '/orders') {
        orders++;
        answer(201, { order: { id: 4000 + orders }, ref: `R-${orders}` });
      } else if (request.url?.startsWith('/orders/'))
        answer(request.url === `/orders/${4000 + orders}` ? 200 : 404, {});
      else if (request.url === '/pay')
        answer(body === `{"order":${4000 + orders},"ref":"R-${orders}","nights":77}` ? 200 : 409, {});
      else if (request.url === '/session') {
        visits++;
        answer(
          200,
          { deep: [{ 'a "key"': `token-of-visit-${visits}` }] },
          { 'Set-Cookie': `trail=cookie-of-${visits}-x; Path=/; HttpOnly` },
        );
      } else if (
        request.headers.authorization !== `Bearer ${token}` ||
        !request.headers.cookie?.includes(`cookie-of-${visits}-x`)
      )
        answer(401, {});
      else if (request.url === '/holds' && busyTimes-- > 0) answer(503, { busy: true }, { 'Retry-After': '1' });
      else if (request.url === '/holds') answer(201, { ok: true }, { Location: `${origin}/holds/hold-${visits}-x` });
      else answer(request.url === `/holds/hold-${visits}-x` && body.includes(token) ? 200 : 404, {});
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

const step = (index: number, draft: Partial<Draft>, answer: Partial<SequenceStep['answer']> = {}): SequenceStep => ({
  index,
  draft: { ...EMPTY_DRAFT, ...draft },
  ended: 'well',
  retries: 0,
  isRedirected: false,
  answer: { json: undefined, page: undefined, setCookies: [], headers: [], location: undefined, ...answer },
});

/** Runs a script, also one that stops. */
async function runScript(target: RunTarget, text: string): Promise<{ code: unknown; stderr: string }> {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-carry-'));
  const path = join(folder, `run.${findTarget(target)?.extension}`);
  writeFileSync(path, text);
  const [command, ...args] = SCRIPT_COMMANDS[target];
  try {
    const { stderr } = await run(command, [...args, path]);
    return { code: 0, stderr };
  } catch (error) {
    const { code, stderr } = error as { code: unknown; stderr: string };
    return { code, stderr };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** As it was captured, at some other visit. */
const captured = (): SequenceStep[] => {
  const headers = [
    own('Authorization', 'Bearer token-of-visit-77'),
    own('Cookie', 'trail=cookie-of-77-x; theme=paperwhite'),
  ];
  return [
    step(
      3,
      { method: 'POST', url: `${origin}/session`, headers: [own('X-Theme', 'paperwhite')] },
      {
        json: '{"deep":[{"a \\"key\\"":"token-of-visit-77"}],"theme":"paperwhite","never":"never-used-again"}',
        setCookies: ['trail=cookie-of-77-x; Path=/; HttpOnly'],
      },
    ),
    step(
      5,
      {
        method: 'POST',
        url: `${origin}/holds`,
        headers: [...headers, own('Content-Type', 'application/json')],
        payload: { type: 'text', text: '{"hut":"alba"}' },
      },
      {
        json: '{"ok":true}',
        location: `${origin}/holds/hold-77-x`,
      },
    ),
    step(8, {
      method: 'PUT',
      url: `${origin}/holds/hold-77-x`,
      headers,
      payload: { type: 'text', text: '{"by":"token-of-visit-77"}' },
    }),
  ];
};

describe('values that answers gave and later requests used', () => {
  it('are found where an answer was the first to hold them, and nowhere else', () => {
    const { carries } = findCarries(captured());
    expect(carries.map(({ from, source, to, value }) => ({ from, source, to, value }))).toEqual([
      { from: 3, source: { type: 'cookie', name: 'trail' }, to: [5, 8], value: 'cookie-of-77-x' },
      {
        from: 3,
        source: { type: 'json', path: ['deep', 0, 'a "key"'], holds: 'text' },
        to: [5, 8],
        value: 'token-of-visit-77',
      },
      { from: 5, source: { type: 'location' }, to: [8], value: `${origin}/holds/hold-77-x` },
    ]);
    expect(new Set(carries.map(({ name }) => name)).size).toBe(3);
  });

  it('are taken where they stand as a whole, not where changed begins or ends like them', () => {
    const pages = Array.from({ length: 12 }, (_, at) =>
      step(
        at,
        {
          url: `${origin}/beds?after=cursor-of-${at}&note=cursor-of-${at}x`,
          headers: [own('X-A', `a cursor-of-${at}, b`)],
        },
        { json: `{"next":"cursor-of-${at + 1}"}` },
      ),
    );
    const { carries, steps } = findCarries(pages);
    expect(carries.map(({ from, to }) => [from, ...to])).toEqual(pages.slice(1).map(({ index }) => [index - 1, index]));
    expect(steps[10]?.draft.url).toBe(`${origin}/beds?after=‹next_10›&note=cursor-of-10x`);
    expect(steps[10]?.draft.headers[0]?.value).toBe('a ‹next_10›, b');
    expect(new Set(carries.map(({ name }) => name)).size).toBe(carries.length);
  });

  const carriedOf = (
    answer: string,
    next: Partial<Draft>,
    before: Partial<Draft> = { url: 'http://a.example/orders' },
  ) => {
    const { carries, steps } = findCarries([step(0, before, { json: answer }), step(1, next)]);
    const { url, payload, headers } = steps[1]?.draft ?? EMPTY_DRAFT;
    return [carries.length, url, payload.type === 'text' ? payload.text : headers.map(({ value }) => value).join()];
  };
  const at = (path: string): Partial<Draft> => ({ url: `http://a.example${path}` });
  const posting = (text: string): Partial<Draft> => ({ ...at('/pay'), payload: { type: 'text', text } });

  it.each([
    ['{"id":17}', '/orders/17/lines', '/orders/‹order_id›/lines'],
    ['{"id":17}', '/lines?order=17&limit=17', '/lines?order=‹order_id›&limit=17'],
    ['{"data":{"orderId":17}}', '/x/orders/17', '/x/orders/‹orderid›'],
    ['{"guest":{"id":"g-7"}}', '/guests/g-7', '/guests/‹guest_id›'],
    ['{"id":17}', '/orders?id=17', '/orders?id=‹order_id›'],
    ['{"id":17}', '/guests?id=17', '/guests?id=17'],
    ['{"id":483021}', '/basket/483021?at=10', '/basket/‹order_id›?at=10'],
    ['{"nr":48302177,"when":1}', '/x?of=48302177', '/x?of=‹nr›'],
    // What only looks like one: a size, a page, a part of a longer value, a price, a round number, a value under no id's name.
    ['{"id":17}', '/thumbs/17/21', '/thumbs/17/21'],
    ['{"id":17}', '/orders/177?page=17', '/orders/177?page=17'],
    ['{"id":17}', '/orders/2026-10-17', '/orders/2026-10-17'],
    ['{"id":10000}', '/list?limit=10000', '/list?limit=10000'],
    ['{"price":48302}', '/list/48302', '/list/48302'],
    ['{"id":true,"code":"E"}', '/orders/E', '/orders/E'],
    ['{"id":4830.5}', '/orders/4830.5', '/orders/4830.5'],
    // Longer than every language reads it exactly.
    ['{"id":98765432109876543}', '/orders/98765432109876543', '/orders/98765432109876543'],
  ])('are ids, however short, by what they are called: %s in %s', (answer, path, carried) =>
    expect(carriedOf(answer, at(path))[1]).toBe(`http://a.example${carried}`),
  );

  it.each([
    ['{"order":17,"note":"17","of":[17]}', '{"order":‹order_id›,"note":"17","of":[17]}'],
    ['{ "orders": [ "17", 18 ] }', '{ "orders": [ "‹order_id›", 18 ] }'],
    ['{"order":{"id":17},"guest":{"id":17},"id":17}', '{"order":{"id":‹order_id›},"guest":{"id":17},"id":17}'],
    ['{"order":"170","17":17.0}', '{"order":"170","17":17.0}'],
    ['order=17&nights=17&order_id=17', 'order=‹order_id›&nights=17&order_id=‹order_id›'],
    ['the order 17', 'the order 17'],
  ])('are ids in the payload %s', (payload, carried) =>
    expect(carriedOf('{"id":17}', posting(payload))[2]).toBe(carried),
  );

  it('are what headers give that guard something, and of revisions those that are asked for to be changed', () => {
    const revision = '"0a1b2c3d"';
    const given = { headers: [own('ETag', revision), own('X-Session', 'walker-of-71')] };
    const { steps } = findCarries([
      step(0, at('/hut'), given),
      step(1, { ...at('/hut'), headers: [own('If-None-Match', revision)] }),
      step(2, { ...at('/hut'), headers: [own('if-match', `W/"x", ${revision}`), own('X-Session', 'walker-of-71')] }),
    ]);
    const headers = steps.map(({ draft }) => draft.headers.map(({ value }) => value));
    expect(headers).toEqual([[], [revision], ['W/"x", ‹etag›', '‹x_session›']]);
  });

  it('are taken of an exchange from its headers that may give something, each once there', () => {
    const entry = {
      request: { method: 'GET', url: 'http://a.example/' },
      response: {
        status: 200,
        headers: [
          { name: 'Date', value: 'Mon, 02 Mar 2026 09:00:00 GMT' },
          { name: 'Access-Control-Allow-Origin', value: 'https://www.cumbrera.example' },
          { name: 'X-CSRF-Token', value: 'one' },
          { name: 'Authorization', value: 'Bearer two' },
          { name: 'ETag', value: '"three"' },
          { name: 'X-Opaque', value: 'q8Zr5tYw2Lk9Vb3NmXc7' },
          { name: 'X-Auth-Token', value: 'twice' },
          { name: 'x-auth-token', value: 'twice again' },
        ],
      },
    };
    const exchange = normaliseEntry(entry as unknown as JsonObject, 0);
    const { answer } = stepOf(exchange, 'faithful', inflateWithZlib);
    expect(answer.headers.map(({ name }) => name)).toEqual(['X-CSRF-Token', 'Authorization', 'ETag', 'X-Opaque']);
  });

  it('are parameters of where a redirect leads, but for that address itself', () => {
    const location = 'http://a.example/back?state=1&code=one-code-77#grant=two%2Bgrant-77';
    const steps = [
      step(0, at('/authorize'), { location }),
      step(1, at('/back?state=1&code=one-code-77#grant=two%2Bgrant-77')),
      step(2, posting('code=one-code-77&state=1&x=one-code-777')),
      step(3, posting('{"grant":"two+grant-77"}')),
    ];
    const { carries, steps: put } = findCarries(steps);
    expect(carries.map(({ name, source, as, to }) => [name, source.type, as, ...to])).toEqual([
      ['location', 'location', 'plain', 1],
      ['code', 'parameter', 'plain', 2],
      ['grant', 'parameter', 'decoded', 3],
    ]);
    expect(put.map(({ draft: { url, payload } }) => (payload.type === 'text' ? payload.text : url))).toEqual([
      'http://a.example/authorize',
      '‹location›',
      'code=‹code›&state=1&x=one-code-777',
      '{"grant":"‹grant›"}',
    ]);
    expect(put.map(({ draft }) => fillIn(draft))).toEqual(steps.map(({ draft }) => draft));
  });

  it('are no types of content, and where a redirect leads only where that is asked for', () => {
    const headers = [own('Content-Type', 'application/json'), own('Referer', 'http://a.example/orders/new-77')];
    const steps = [
      step(0, at('/orders'), { json: '{"mime":"application/json"}', location: 'http://a.example/orders/new-77' }),
      step(1, { ...at('/orders/new-77?from=http://a.example/orders/new-77'), headers }),
      step(2, { ...at('/huts'), headers }),
    ];
    const { carries, steps: put } = findCarries(steps);
    expect(carries.map(({ name, to }) => [name, ...to])).toEqual([['location', 1]]);
    expect(put[1]?.draft).toMatchObject({ url: '‹location›?from=‹location›', headers });
    expect(put[2]?.draft).toEqual(steps[2]?.draft);
  });

  it('are no address that every other one begins with', () => {
    const steps = [
      step(0, at('/start'), { location: 'http://a.example/' }),
      step(1, at('/')),
      step(2, at('/app.js')),
      step(3, at('/?page=1')),
    ];
    const { carries, steps: put } = findCarries(steps);
    expect(carries.map(({ to }) => to)).toEqual([[1, 3]]);
    expect(put.map(({ draft }) => draft.url).slice(1)).toEqual([
      '‹location›',
      'http://a.example/app.js',
      '‹location›?page=1',
    ]);
  });

  it('are taken from the field that is called so, wherever else the page has the same', () => {
    const page = '<a href="?of=20260301-abc">x</a><input name="first" value="20260301-abc">';
    const request: Partial<Draft> = { ...posting('first=20260301-abc'), method: 'POST' };
    const { carries } = findCarries([step(0, at('/'), { page }), step(1, request)]);
    expect(carries.map(({ source }) => source)).toEqual([
      { type: 'text', before: '<input name="first" value="', after: '"' },
    ]);
  });

  it('are ids in headers that are called so', () => {
    const headers = [own('X-Order-Id', '17'), own('X-Width', '17'), own('X-Guest-Id', '17')];
    expect(carriedOf('{"id":17}', { ...at('/pay'), headers })[2]).toBe('‹order_id›,17,17');
  });

  it.each([
    // What is percent-encoded where it is used: a cursor in a query, a token in a form.
    [posting('csrf=a%2Bb%2F0123456%3D%3D&hut=alba'), 'csrf=‹token›&hut=alba'],
    [posting('{"csrf":"a+b/0123456=="}'), '{"csrf":"‹token›"}'],
    [posting('csrf=a%2Bb%2F0123456%3D%3D&x={"y":"a+b/0123456=="}'), 'csrf=‹token_2›&x={"y":"‹token›"}'],
  ])('are percent-encoded where they were: %j', (request, carried) => {
    const steps = [step(0, at('/session'), { json: '{"token":"a+b/0123456=="}' }), step(1, request)];
    const { carries, steps: put } = findCarries(steps);
    const draft = put[1]?.draft ?? EMPTY_DRAFT;
    expect(draft.payload).toEqual({ type: 'text', text: carried });
    expect(fillIn(draft)).toMatchObject(request);
    expect(carries.map(({ as, value }) => (as === 'encoded') === value.includes('%'))).not.toContain(false);
  });

  it.each([
    ['aB3dE5gH7jK9', '/x?at=‹token_2›', 'csrf=‹token_2›', '‹token›'],
    // Of these it is known that they never have to be.
    ['ab3de5gh7jk9', '/x?at=‹token›', 'csrf=‹token›', '‹token›'],
    ['aB3d-E5gH_7jK9', '/x?at=‹token›', 'csrf=‹token›', '‹token›'],
  ])('are percent-encoded where %s may have to be another time', (token, path, form, header) => {
    const asked = { ...at(`/x?at=${token}`), headers: [own('X-Key', token), own('X-Other', `${token}x`)] };
    const posted = { ...posting(`csrf=${token}`), headers: [own('Content-Type', 'application/x-www-form-urlencoded')] };
    const steps = [step(0, at('/session'), { json: JSON.stringify({ token }) }), step(1, asked), step(2, posted)];
    const { carries, steps: put } = findCarries(steps);
    const [, one, other] = put.map(({ draft }) => draft);
    expect(one?.url.endsWith(path), one?.url).toBe(true);
    expect(one?.headers.map(({ value }) => value)).toEqual([header, `${token}x`]);
    expect(other?.payload).toEqual({ type: 'text', text: form });
    expect(carries.map(({ as, to }) => [as, ...to])).toEqual(
      path.includes('_2')
        ? [
            ['plain', 1],
            ['encoded', 1, 2],
          ]
        : [['plain', 1, 2]],
    );
    expect(fillIn(one ?? EMPTY_DRAFT)).toMatchObject(asked);
    expect(fillIn(other ?? EMPTY_DRAFT)).toMatchObject(posted);
  });

  it('are told to be encoded where a request has them in such places alone', () => {
    const form = [own('Content-Type', 'application/x-www-form-urlencoded')];
    const isEncoded = (draft: Partial<Draft>, value = 'aB3dE5gH7jK9'): boolean =>
      isToBeEncoded({ ...EMPTY_DRAFT, ...draft }, { name: 'token', value });
    expect(isEncoded({ ...posting('csrf=aB3dE5gH7jK9'), headers: form })).toBe(true);
    expect(isEncoded({ ...posting('csrf=‹token›'), headers: form })).toBe(true);
    expect(isEncoded(at('/x?at=‹token›'))).toBe(true);
    expect(isEncoded(posting('csrf=‹token›'))).toBe(false);
    expect(isEncoded({ ...at('/x?at=‹token›'), headers: [own('X-Key', 'aB3dE5gH7jK9')] })).toBe(false);
    expect(isEncoded(at('/x?at=ab3-de5'), 'ab3-de5')).toBe(false);
  });

  const CSRF = 'Zx81-a7f3/9==';
  it.each([
    [
      `<form><input type="hidden" name="_csrf" value="${CSRF}"></form>`,
      '<input type="hidden" name="_csrf" value="',
      '"',
    ],
    [`<meta name='csrf-token' content='${CSRF}'>`, "<meta name='csrf-token' content='", "'"],
    [`<p>${'x'.repeat(400)}<script>app({"user":7,"csrf":"${CSRF}","x":1})</script>`, '"csrf":"', '"'],
    // The value stands first in an element like others: the one before it belongs to the mark.
    [
      `<input value="other" name="a"><label>key</label><input value="${CSRF}" name="_csrf">`,
      '</label><input value="',
      '"',
    ],
    // Only as a part of something else, behind letters that charsets write differently, or with nothing to tell it by.
    [`<input name="_csrf" value="${CSRF}=">`, undefined, undefined],
    [`<input name="_csrf" value="x${CSRF}">`, undefined, undefined],
    [`<input title="é" value="${CSRF}">`, undefined, undefined],
    [CSRF, undefined, undefined],
    [`<b>${'y'.repeat(400)} ${CSRF} </b>`, undefined, undefined],
  ])('are taken from the page %s', (page, before, after) => {
    const request = posting(`_csrf=${encodeURIComponent(CSRF)}&hut=alba`);
    const sign: Partial<Draft> = { ...request, method: 'POST' };
    const { carries } = findCarries([step(0, at('/sign-in'), { page }), step(1, sign)]);
    const found = carries.map(({ source }) => source);
    expect(found).toEqual(before === undefined ? [] : [{ type: 'text', before, after }]);
    const [source] = found;
    if (source !== undefined) expect(takeValue({ headers: [], text: page }, placeOf(source))).toBe(CSRF);
  });

  it.each([
    // What a page names is no value of it: addresses, what was typed, and what only gets something.
    [at('/app.js?v=20260301-abc'), 0],
    [{ ...posting('mail=ana@cumbrera.example'), method: 'POST' }, 0],
    [{ ...posting('night=2026-03-01'), method: 'POST' }, 0],
    [{ ...posting('first=2026-03-01'), method: 'POST' }, 1],
    [at('/next?state=20260301-abc'), 1],
  ] as const)('are taken from a page where they guard or are handed on: %j', (request, count) => {
    const page = '<i title="20260301-abc" lang="ana@cumbrera.example"><input name="first" value="2026-03-01">';
    expect(findCarries([step(0, at('/'), { page }), step(1, request)]).carries).toHaveLength(count);
  });

  it('are taken from the last page before, and from data before any page', () => {
    const form = (token: string) => ({ page: `<input name="_csrf" value="${token}">` });
    const request = (token: string): Partial<Draft> => ({ ...posting(`_csrf=${token}`), method: 'POST' });
    const pages = [
      step(0, at('/'), form('one-11111')),
      step(1, at('/a'), form('one-11111')),
      step(2, request('one-11111')),
    ];
    expect(findCarries(pages).carries.map(({ from }) => from)).toEqual([1]);
    const data = [step(0, at('/'), { json: '{"t":"one-11111"}' }), ...pages.slice(1)];
    expect(findCarries(data).carries.map(({ source }) => source.type)).toEqual(['json']);
  });

  it('are none where a request before the answer knew them', () =>
    expect(carriedOf('{"id":483021}', at('/orders/483021'), at('/orders/483021'))[0]).toBe(0));

  it('leave all else of a request as it is', () => {
    const text = fc.oneof(fc.string(), fc.json(), fc.webQueryParameters());
    const draft = fc.record({
      url: fc.oneof(fc.webUrl({ withQueryParameters: true, withFragments: true }), fc.string()),
      text,
    });
    fc.assert(
      fc.property(draft, ({ url, text: payload }) => {
        const request: Draft = { ...EMPTY_DRAFT, url, payload: { type: 'text', text: payload } };
        expect(replaceShortIds(request, () => undefined)).toEqual(request);
      }),
    );
  });

  it('are told with the first of many that use them', () => {
    const many = {
      name: 'token',
      value: 'x',
      from: 1,
      source: { type: 'location' as const },
      as: 'plain' as const,
      to: [2, 3, 4, 5, 6, 7, 8, 9],
    };
    expect(tellCarry(many)).toBe(
      'token is taken from the response of #1 and used in #2, #3, #4, #5, #6, #7 and 2 more.',
    );
    expect(tellCarry({ ...many, to: [2] })).toBe('token is taken from the response of #1 and used in #2.');
  });

  it('are none where nothing is carried', () => {
    const steps = captured().slice(2);
    expect(findCarries(steps)).toEqual({ carries: [], steps });
  });

  itNeeding(['curl', 'jq'])('never lose a byte of a payload that looks like the script itself', async () => {
    const echo = await startEcho();
    const payload = `\u0000| curl x\nTOKEN=a\n: "\${KEY:?set KEY first}"\n | curl y`;
    const draft: Partial<Draft> = {
      method: 'POST',
      url: `http://127.0.0.1:${echo.port}/`,
      payload: { type: 'text', text: payload },
      variables: [{ name: 'token', value: 'a', isSecret: false }],
      headers: [own('X-A', '‹token›')],
    };
    const { text } = renderScript({ steps: [step(1, draft)], carries: [] }, 'curl-sh');
    await run('sh', ['-c', text]);
    expect(echo.take().map(({ body }) => body.toString())).toEqual([payload]);
    const loop = renderLoop({ ...EMPTY_DRAFT, ...draft }, { type: 'table', list: [], rows: 'csv' }, 'curl-sh');
    await run('sh', ['-c', loop.text]).catch(() => undefined);
    expect(echo.take().map(({ body }) => body.toString())).toEqual([payload]);
    await echo.close();
  });

  for (const target of RUN_TARGETS) {
    itNeeding(SCRIPT_NEEDS[target])(`make a script of ${target} run again another day`, async () => {
      const sequence: Sequence = findCarries(captured());
      const { text } = renderScript(sequence, target);
      served = [];
      expect((await runScript(target, text)).code).toBe(0);
      expect(served, text).toEqual(['POST /session 200', 'POST /holds 201', 'PUT /holds/HOLD 200']);
    });

    itNeeding(SCRIPT_NEEDS[target])(`make a script of ${target} pay the order that it made itself`, async () => {
      const posting = (path: string, text: string): Partial<Draft> => ({
        method: 'POST',
        url: `${origin}${path}`,
        headers: [own('Content-Type', 'application/json')],
        payload: { type: 'text', text },
      });
      const sequence = findCarries([
        step(0, posting('/orders', '{"hut":"alba"}'), { json: '{"order":{"id":4077},"ref":"R-77"}' }),
        step(1, { url: `${origin}/orders/4077` }),
        step(2, posting('/pay', '{"order":4077,"ref":"R-77","nights":77}')),
      ]);
      served = [];
      const { text } = renderScript(sequence, target);
      expect((await runScript(target, text)).stderr.trim()).toBe('');
      expect(served, text).toEqual(['POST /orders 201', 'GET /orders/ORDER 200', 'POST /pay 200']);
    });

    itNeeding(SCRIPT_NEEDS[target])(
      `make a script of ${target} hand on what a page and data give it, encoded`,
      async () => {
        // In the second capture nothing had to be encoded; in the run it has.
        for (const [key, cursor] of [
          [formKey(77), `${formKey(77)} &é`],
          ['aB3dE5gH7jK9', 'Zy8Xw7Vu6Ts5'],
        ] as const) {
          const page = `<input name="other" value="no">\n<input\n name='it"s $key' value="${key}">`;
          const sequence = findCarries([
            step(0, { url: `${origin}/form` }, { page }),
            step(1, {
              method: 'POST',
              url: `${origin}/signed`,
              headers: [own('Content-Type', 'application/x-www-form-urlencoded')],
              payload: { type: 'text', text: `key=${encodeURIComponent(key)}` },
            }),
            step(2, { url: `${origin}/cursor` }, { json: JSON.stringify({ next: cursor }) }),
            step(3, { url: `${origin}/next?at=${encodeURIComponent(cursor)}` }),
          ]);
          served = [];
          const { text } = renderScript(sequence, target);
          expect((await runScript(target, text)).stderr.trim(), text).toBe('');
          const whole = ['GET /form', 'POST /signed 200', 'GET /cursor 200', 'GET /next?at=CURSOR 200'];
          expect(served, text).toEqual(whole);
        }
      },
    );

    itNeeding(SCRIPT_NEEDS[target])(
      `make a script of ${target} hand on what a redirect and a cookie give, decoded`,
      async () => {
        const hop = { location: `/back?state=9#ticket=${ticket(77)}`, setCookies: [`XSRF=${ticket(77)}; Path=/`] };
        const sequence = findCarries([
          { ...step(0, { url: `${origin}/authorize` }, hop), isRedirected: true },
          step(1, {
            method: 'POST',
            url: `${origin}/token`,
            headers: [own('Content-Type', 'text/plain'), own('X-XSRF', decodeURIComponent(ticket(77)))],
            payload: { type: 'text', text: `ticket=${ticket(77)}` },
          }),
        ]);
        served = [];
        const { text } = renderScript(sequence, target);
        expect((await runScript(target, text)).stderr.trim(), text).toBe('');
        expect(served, text).toEqual(['GET /authorize 302', 'POST /token 200']);
      },
    );

    itNeeding(SCRIPT_NEEDS[target])(`make a script of ${target} hand on what headers give`, async () => {
      const [token, revision] = [`${formKey(77)};q`, '"rev-77-of-gate"'];
      const given = { headers: [own('x-csrf-token', token), own('etag', revision)] };
      const url = `${origin}/gate?by=${encodeURIComponent(token)}`;
      const sequence = findCarries([
        step(0, { url: `${origin}/gate` }, given),
        step(1, { method: 'PUT', url, headers: [own('If-Match', revision)] }),
        step(2, {
          method: 'POST',
          url: `${origin}/gate-form`,
          headers: [own('Content-Type', 'multipart/form-data; boundary=b')],
          payload: { type: 'text', text: gateForm(token) },
        }),
      ]);
      served = [];
      const { text } = renderScript(sequence, target);
      expect((await runScript(target, text)).stderr.trim(), text).toBe('');
      expect(served.slice(1), text).toEqual([expect.stringMatching(/ 200$/), 'POST /gate-form 200']);
    });

    itNeeding(SCRIPT_NEEDS[target])(
      `make a script of ${target} send each hop of a redirect once, as it was`,
      async () => {
        const headers = [own('Cookie', 'stay=stay-of-77-x')];
        const hop = { location: '/welcome', setCookies: ['stay=stay-of-77-x; Path=/'] };
        const signIn = { ...step(0, { method: 'POST', url: `${origin}/sign-in` }, hop), isRedirected: true };
        const welcome = step(1, { url: `${origin}/welcome`, headers });
        const send = async (...steps: SequenceStep[]) => {
          served = [];
          const { text } = renderScript(findCarries(steps), target, { ...DEFAULT_OPTIONS, redirects: 'follow' });
          const { code, stderr } = await runScript(target, text);
          return [code, stderr.trim(), ...served];
        };
        expect(await send(signIn, welcome)).toEqual([0, '', 'POST /sign-in 302', 'GET /welcome 200']);
        // Where the hop is left out of the script, it is followed if that is what is asked for.
        expect((await send(signIn)).slice(2)).toEqual(['POST /sign-in 302', expect.stringMatching(/ \/welcome /)]);
      },
    );

    itNeeding(SCRIPT_NEEDS[target])(`make a script of ${target} ask a busy server again, as the page did`, async () => {
      const [signIn, hold, change] = captured() as [SequenceStep, SequenceStep, SequenceStep];
      const steps = [signIn, { ...hold, retries: 2 }, { ...change, retries: 1 }];
      const send = async (busy: number) => {
        served = [];
        busyTimes = busy;
        return (await runScript(target, renderScript(findCarries(steps), target).text)).code;
      };
      expect(await send(2)).toBe(0);
      expect(served.slice(1)).toEqual(['POST /holds 503', 'POST /holds 503', 'POST /holds 201', 'PUT /holds/HOLD 200']);
      expect(await send(3)).not.toBe(0);
      expect(served.slice(1)).toEqual(['POST /holds 503', 'POST /holds 503', 'POST /holds 503']);
    });

    itNeeding(SCRIPT_NEEDS[target])(
      `make a script of ${target} go on behind what failed in the capture alone`,
      async () => {
        const [signIn, hold, change] = captured() as [SequenceStep, SequenceStep, SequenceStep];
        const lost = step(6, { url: `${origin}/lost` });
        const failing = async (steps: readonly SequenceStep[]): Promise<string> => {
          served = [];
          const { stderr } = await runScript(target, renderScript(findCarries(steps), target).text);
          return stderr;
        };
        expect(await failing([signIn, hold, { ...lost, ended: 401 }, change])).toBe('');
        expect(served).toEqual(['POST /session 200', 'POST /holds 201', 'GET /lost 401', 'PUT /holds/HOLD 200']);
        expect(await failing([signIn, lost, hold, change])).toContain('401');
        expect(served).toEqual(['POST /session 200', 'GET /lost 401']);
      },
    );
  }
});

describe('attempts of a session', () => {
  const huts = { url: 'https://a.example/huts' };
  const post = (text: string): Partial<Draft> => ({ method: 'POST', ...huts, payload: { type: 'text', text } });
  const ended = (one: SequenceStep, how: SequenceStep['ended']): SequenceStep => ({ ...one, ended: how });
  const left = (steps: readonly SequenceStep[]) => {
    const { steps: kept, notes } = withoutAttempts(steps);
    return { kept: kept.map(({ index }) => index), notes };
  };

  it('are left out of a script where they came to nothing, and that is said', () => {
    const token = { ...huts, headers: [own('Authorization', 'Bearer old')] };
    expect(
      left([
        ended(step(1, { ...huts, method: 'OPTIONS' }), 'preflight'),
        ended(step(2, token), 401),
        ended(step(3, { url: 'https://a.example/given-up' }), 'unanswered'),
        step(4, { ...post('renew'), url: 'https://a.example/session' }),
        step(5, { ...huts, headers: [own('Authorization', 'Bearer new')] }),
      ]),
    ).toEqual({
      kept: [4, 5],
      notes: [
        '#1 is left out: only browsers send a preflight first.',
        '#3 is left out: no response came in the capture.',
        '#2 is left out: it returned 401, and sent again as #5.',
      ],
    });
  });

  it('are made again where the server was busy', () => {
    const { steps, notes } = withoutAttempts([
      ended(step(1, huts), 503),
      ended(step(2, huts), 429),
      ended(step(3, huts), 401),
      step(4, huts),
      step(5, huts),
    ]);
    expect(steps.map(({ index, retries }) => [index, retries])).toEqual([
      [4, 2],
      [5, 0],
    ]);
    expect(notes).toContain('#2 is left out: it returned 429, and sent again as #4; the script tries again, too.');
  });

  it('stay where another request worked, one before, or none', () => {
    const steps = [
      step(1, post('a')),
      ended(step(2, post('a')), 503),
      ended(step(3, post('b')), 503),
      step(4, post('c')),
      step(5, { ...post('b'), method: 'PUT' }),
      ended(step(6, post('c')), 409),
    ];
    expect(left(steps)).toEqual({ kept: [1, 2, 3, 4, 5, 6], notes: [] });
  });

  it('of many are named by the first', () => {
    const steps = Array.from({ length: 9 }, (_, at) => ended(step(at, huts), 'unanswered'));
    expect(left(steps).notes).toEqual([
      '#0, #1, #2, #3, #4, #5 and 3 more are left out: no response came in the capture.',
    ]);
  });
});
