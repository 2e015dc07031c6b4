import { createHmac } from 'node:crypto';
import { buildSchema, graphql } from 'graphql';
import { between } from './random';
import { type Handler, jsonAnswer, type SiteAnswer, type SiteRequest } from './types';
import { findHut, HUTS, NOTICES, nightsOf } from './world';

// api.cumbrera.example: JSON with paging, a session token that expires, GraphQL, bookings.

const WWW = 'https://www.cumbrera.example';
const TOKEN_KEY = 'the stand-in site signs with this';
const TOKEN_LIFE_S = 900;

/** Calls from the pages' own origin are allowed; X-Warden-Key is not among the headers it allows. */
const CORS = {
  'access-control-allow-origin': WWW,
  'access-control-allow-credentials': 'true',
  vary: 'Origin',
};

const encode = (value: unknown): string => Buffer.from(JSON.stringify(value)).toString('base64url');

export function makeToken(issuedAtS: number): string {
  const body = `${encode({ alg: 'HS256', typ: 'JWT' })}.${encode({ sub: 'walker-2871', iat: issuedAtS, exp: issuedAtS + TOKEN_LIFE_S })}`;
  return `${body}.${createHmac('sha256', TOKEN_KEY).update(body).digest('base64url')}`;
}

function tokenProblem(request: SiteRequest): string | undefined {
  const token = /^Bearer (\S+)$/.exec(request.headers['authorization'] ?? '')?.[1];
  if (token === undefined) return 'no token was sent';
  const [head, claims, signature] = token.split('.');
  const expected = createHmac('sha256', TOKEN_KEY).update(`${head}.${claims}`).digest('base64url');
  if (signature !== expected) return 'the token is not ours';
  const { exp } = JSON.parse(Buffer.from(claims ?? '', 'base64url').toString()) as { exp: number };
  return exp < Date.now() / 1000 ? 'the token has expired' : undefined;
}

const problem = (status: number, title: string, detail: string): SiteAnswer =>
  jsonAnswer(
    { type: 'about:blank', title, status, detail },
    { status, headers: { 'content-type': 'application/problem+json' } },
  );

const SCHEMA = buildSchema(`
  type Query { hut(slug: String!): Hut, ridges(near: String!): [String!]! }
  type Mutation { holdBeds(hut: String!, nights: Int!): Hold }
  type Hold { id: ID!, until: String! }
  type Hut { name: String!, ridge: String!, beds: Int!, warden: String!, story: String!, hero: String!, photos: [String!]!, facilities: [String!]! }
`);

const RESOLVERS = {
  hut: ({ slug }: { slug: string }) => {
    const hut = findHut(slug);
    return hut === undefined ? null : { ...hut, hero: `https://img.cumbrera.example/photos/${slug}-ridge-1600.webp` };
  },
  ridges: () => [...new Set(HUTS.map((hut) => hut.ridge))],
  holdBeds: () => {
    throw new Error('The hut keeps its last beds for walkers who arrive on foot.');
  },
};

async function answerGraphql(request: SiteRequest): Promise<SiteAnswer> {
  const sent = JSON.parse(request.body.toString()) as {
    query: string;
    variables?: Record<string, unknown>;
    operationName?: string;
  };
  const { query, variables = {}, operationName } = sent;
  const result = await graphql({
    schema: SCHEMA,
    source: query,
    rootValue: RESOLVERS,
    variableValues: variables,
    operationName: operationName ?? null,
  });
  const slow = request.release === 'first' && operationName === 'HutCard';
  return jsonAnswer(result, {
    thinkMs: slow ? 610 : 90,
    headers: {
      'cache-control': 'no-store',
      'server-timing': slow ? 'db;dur=488;desc="huts by ridge", render;dur=71' : 'db;dur=42, render;dur=20',
    },
  });
}

/** How often a path was called with a visitor's id, so that the first call fails and the next one succeeds. */
const callCounts = new Map<string, number>();

function countCall(request: SiteRequest): number {
  const visitor = request.headers['cookie'] ?? request.query.get('visit') ?? '';
  const key = `${request.path} ${visitor}`;
  const count = (callCounts.get(key) ?? 0) + 1;
  callCounts.set(key, count);
  return count;
}

function page<T>(
  request: SiteRequest,
  all: readonly T[],
  perPage: number,
): { items: T[]; page: number; pages: number; total: number } {
  const at = Number(request.query.get('page') ?? 0);
  const items = all.slice(at * perPage, (at + 1) * perPage);
  return { items, page: at, pages: Math.ceil(all.length / perPage), total: all.length };
}

const guarded =
  (handler: Handler): Handler =>
  (request) => {
    const wrong = tokenProblem(request);
    return wrong === undefined ? handler(request) : { ...problem(401, 'Unauthorised', wrong), thinkMs: 60 };
  };

const ROUTES: readonly (readonly [method: string, path: RegExp, handler: Handler])[] = [
  [
    'POST',
    /^\/session$/,
    (request) => {
      // ?stale=1 hands out a token that has already run out, as a page left open over night has one.
      const issuedAt = Math.floor(Date.now() / 1000) - (request.query.has('stale') ? TOKEN_LIFE_S + 2460 : 0);
      const cookie = 'walker=w-2871-5f0c; Path=/; Secure; HttpOnly; SameSite=None; Max-Age=2592000';
      return jsonAnswer(
        { token: makeToken(issuedAt) },
        { thinkMs: 70, headers: { 'set-cookie': cookie, 'cache-control': 'no-store' } },
      );
    },
  ],
  [
    'POST',
    /^\/session\/renew$/,
    () =>
      jsonAnswer(
        { token: makeToken(Math.floor(Date.now() / 1000)) },
        { thinkMs: 88, headers: { 'cache-control': 'no-store' } },
      ),
  ],
  ['POST', /^\/graphql$/, answerGraphql],
  [
    'GET',
    /^\/huts$/,
    (request) =>
      request.release === 'first'
        ? jsonAnswer(page(request, HUTS, 40), { thinkMs: 120, headers: { 'cache-control': 'no-cache' } })
        : jsonAnswer(
            page(
              request,
              HUTS.map(({ slug, name, altitudeM }) => ({ slug, name, altitudeM })),
              40,
            ),
            { thinkMs: 40, headers: { 'cache-control': 'public, max-age=600' } },
          ),
  ],
  [
    'GET',
    /^\/huts\/[a-z-]+\/availability$/,
    guarded((request) => {
      const hut = findHut(request.path.split('/')[2] ?? '');
      if (hut === undefined) return problem(404, 'Not found', 'There is no such hut.');
      const at = Number(request.query.get('page') ?? 0);
      return jsonAnswer(
        { nights: nightsOf(hut, at * 30, 30), page: at, pages: 4 },
        { thinkMs: between(request.path + at, 60, 90), headers: { 'cache-control': 'private, max-age=60' } },
      );
    }),
  ],
  [
    'GET',
    /^\/huts\/[a-z-]+\/beds\/[0-9-]+$/,
    guarded((request) => {
      const [, , slug, , date] = request.path.split('/');
      return jsonAnswer(
        { hut: slug, date, free: between(request.path, 0, 24) },
        { thinkMs: between(request.path, 25, 70), headers: { 'cache-control': 'no-store' } },
      );
    }),
  ],
  [
    'GET',
    /^\/notices$/,
    (request) =>
      jsonAnswer(page(request, NOTICES, 20), {
        thinkMs: 45,
        headers: { 'cache-control': 'max-age=0, must-revalidate', etag: `"notices-${request.query.get('page') ?? 0}"` },
      }),
  ],
  [
    'GET',
    /^\/prices$/,
    () =>
      jsonAnswer(Object.fromEntries(HUTS.map((hut) => [hut.slug, hut.pricePerNight])), {
        thinkMs: 35,
        headers: { 'cache-control': 'no-store' },
      }),
  ],
  [
    'GET',
    /^\/search$/,
    (request) =>
      jsonAnswer(
        HUTS.filter((hut) => hut.slug.includes(request.query.get('q') ?? '')).map((hut) => hut.name),
        { thinkMs: 400, headers: { vary: '*' } },
      ),
  ],
  [
    'POST',
    /^\/holds$/,
    guarded((request) =>
      countCall(request) === 1
        ? {
            ...problem(503, 'Busy', 'Beds are being counted.'),
            thinkMs: 180,
            headers: { 'content-type': 'application/problem+json', 'retry-after': '1' },
          }
        : jsonAnswer(
            { hold: 'h-77120', until: '2026-10-03T18:00:00Z' },
            { status: 201, thinkMs: 110, headers: { location: '/holds/h-77120' } },
          ),
    ),
  ],
  [
    'PATCH',
    /^\/holds\/[a-z0-9-]+$/,
    guarded((request) =>
      jsonAnswer({ hold: 'h-77120', ...(JSON.parse(request.body.toString()) as object) }, { thinkMs: 60 }),
    ),
  ],
  ['DELETE', /^\/holds\/[a-z0-9-]+$/, guarded(() => ({ status: 204, thinkMs: 40 }))],
  [
    'POST',
    /^\/photos$/,
    guarded((request) =>
      jsonAnswer(
        { stored: true, receivedBytes: request.body.length, type: request.headers['content-type']?.split(';')[0] },
        { status: 201, thinkMs: 130 },
      ),
    ),
  ],
  ['POST', /^\/warden\/log$/, () => jsonAnswer({ ok: true })],
  ['GET', /^\/slow$/, (request) => jsonAnswer({ waited: true }, { thinkMs: Number(request.query.get('ms') ?? 3000) })],
];

export const answerApi: Handler = async (request) => {
  if (request.method === 'OPTIONS') {
    const allow = {
      'access-control-allow-methods': 'GET, POST, PATCH, DELETE',
      'access-control-allow-headers': 'authorization, content-type, x-cumbrera-client',
      'access-control-max-age': '600',
    };
    return { status: 204, headers: { ...CORS, ...allow }, thinkMs: 12 };
  }
  const route = ROUTES.find(([method, path]) => method === request.method && path.test(request.path));
  const answer = await (route === undefined
    ? problem(404, 'Not found', `Nothing is at ${request.path}.`)
    : route[2](request));
  const expose = { 'access-control-expose-headers': 'Retry-After, Location, Server-Timing' };
  return { ...answer, headers: { ...CORS, ...expose, ...answer.headers } };
};
