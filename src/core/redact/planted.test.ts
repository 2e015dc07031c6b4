import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inflateWithZlib } from '../../server/inflate';
import type { Json } from '../har';
import { findInEntry } from './find';
import { KINDS_OF_PRESET } from './kinds';
import { Prover } from './proof';
import { Redactor } from './redactor';
import { SecretStore } from './store';

// Whole captures with secrets planted in them, each found in one place and written otherwise in others. What is left is looked
// for with Node's own encoders, which share nothing with what replaces nor with the proof.

const TOOLS = { inflate: inflateWithZlib };

const letters = (alphabet: string, min: number, max: number) =>
  fc.array(fc.constantFrom(...alphabet), { minLength: min, maxLength: max }).map((all) => all.join(''));
const ALNUM = 'abcdefghjkmnpqrstuvwxyzABCDEFGHJKLMNPQRSTUVWXYZ23456789';

/** Digits with a check digit by Luhn (ISO/IEC 7812-1, Annex B). */
const card = letters('0123456789', 14, 14).map((drawn) => {
  const digits = `4${drawn}`;
  const sum = [...digits].reverse().reduce((all, digit, at) => {
    const value = Number(digit) * (at % 2 === 0 ? 2 : 1);
    return all + (value > 9 ? value - 9 : value);
  }, 0);
  return digits + String((10 - (sum % 10)) % 10);
});

/** A secret, and the entry in which it stands for what it is. */
interface Planted {
  readonly value: string;
  readonly entry: Json;
}

const entryOf = (request: object, response: object = {}, more: object = {}): Json =>
  ({
    startedDateTime: '2026-10-03T09:00:00.000Z',
    time: 42,
    request: { method: 'GET', url: 'https://www.cumbrera.example/huts', httpVersion: 'h2', headers: [], ...request },
    response: { status: 200, headers: [], content: { size: 9, mimeType: 'text/plain' }, ...response },
    timings: { send: 0, wait: 40, receive: 2 },
    ...more,
  }) as unknown as Json;

const content = (text: string, mimeType = 'application/json') => ({ content: { size: text.length, mimeType, text } });
const headers = (name: string, value: string) => ({ headers: [{ name, value }] });

const drawn = letters(`${ALNUM}-_`, 10, 40).map((text) => `k7${text}Q2z`);
const planted: fc.Arbitrary<Planted> = fc.oneof(
  drawn.map((value) => ({ value, entry: entryOf(headers('Authorization', `Bearer ${value}`)) })),
  drawn.map((value) => ({ value, entry: entryOf(headers('Cookie', `theme=dark; sid=${value}`)) })),
  drawn.map((value) => ({ value, entry: entryOf({}, headers('Set-Cookie', `sid=${value}; Path=/`)) })),
  drawn.map((value) => ({ value, entry: entryOf({ url: `https://a.example/x?page=2&access_token=${value}` }) })),
  drawn.map((value) => ({
    value,
    entry: entryOf({}, content(JSON.stringify({ beds: 3, session: { token: value } }))),
  })),
  drawn.map((value) => ({
    value,
    entry: entryOf({ postData: { mimeType: 'application/x-www-form-urlencoded', text: `hut=alba&password=${value}` } }),
  })),
  drawn.map((value) => ({
    value,
    entry: entryOf({}, {}, { _webSocketMessages: [{ type: 'send', data: JSON.stringify({ auth_token: value }) }] }),
  })),
  letters('abcdefghjk', 4, 10).map((name) => ({
    value: `${name}.walker@post.cumbrera.example`,
    entry: entryOf({}, content(`{"to":"${name}.walker@post.cumbrera.example"}`)),
  })),
  card.map((value) => ({ value, entry: entryOf({}, content(JSON.stringify({ paid: value }))) })),
  letters(ALNUM, 12, 20).map((subject) => {
    const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url');
    const value = `${part({ alg: 'HS256' })}.${part({ sub: subject, exp: 1_790_000_000 })}.${subject}x9`;
    return { value, entry: entryOf({}, content(JSON.stringify({ jwt: value }))) };
  }),
);

const html = (value: string): string => value.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
/** Ways in which a value stands elsewhere, some inside one another. */
const WAYS: readonly ((value: string) => string)[] = [
  (value) => `x ${value} y`,
  (value) => `/next?u=${encodeURIComponent(`/x?v=${value}`)}`,
  (value) => JSON.stringify(JSON.stringify({ value })),
  (value) => `<a title="${html(value)}">`,
  ...[0, 1, 2].map((pad) => (value: string) => Buffer.from(`${'~'.repeat(pad)}${value}~`).toString('base64')),
  (value) => Buffer.from(JSON.stringify({ value })).toString('base64url'),
  (value) => encodeURIComponent(Buffer.from(`?${value}`).toString('base64')),
  (value) => Buffer.from(value).toString('hex'),
  (value) => Buffer.from(JSON.stringify({ inner: Buffer.from(value).toString('base64') })).toString('base64'),
  (value) => Buffer.from(`/x?v=${encodeURIComponent(value)}&w=${encodeURIComponent(value)}`).toString('base64url'),
];
/** Where it stands elsewhere. */
const PLACES: readonly ((text: string) => Json)[] = [
  (text) => entryOf(headers('X-Note', text)),
  (text) => entryOf({}, content(text, 'text/html')),
  (text) => entryOf({}, {}, { comment: text }),
  (text) => entryOf({}, {}, { _webSocketMessages: [{ type: 'receive', data: text }] }),
  (text) =>
    entryOf(
      {},
      { content: { size: 9, mimeType: 'text/plain', encoding: 'base64', text: Buffer.from(text).toString('base64') } },
    ),
];

/** What must stay as it is, to the letter. */
const CONTROLS = [
  'hut=alba-norte&page=2',
  '{"beds":12,"free":[3,4]}',
  'W/"33a64df5"',
  '2026-10-03T09:00:00.000Z',
  'no-cache, max-age=0',
  'text/html; charset=utf-8',
  'gzip, deflate, br',
  'Été à 2,700 m — <b>réservé</b>',
];

/** Every string of a value, and every text that bodies in base64 are. */
function stringsOf(value: unknown): string[] {
  if (typeof value === 'string') return [value, Buffer.from(value, 'base64').toString('utf8')];
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([name, own]) => [name, ...stringsOf(own)]);
}

/** How a value is written by Node's own encoders; of base64 what of it does not depend on what stands beside it. */
function formsOf(value: string): string[] {
  const inner = [0, 1, 2].flatMap((pad) => {
    const encoded = Buffer.from('~'.repeat(pad) + value).toString('base64');
    const own = encoded.replace(/=+$/, '').slice(pad === 0 ? 0 : pad + 1, -2);
    return [own, own.replaceAll('+', '-').replaceAll('/', '_')];
  });
  return [value, encodeURIComponent(value), html(value), Buffer.from(value).toString('hex'), ...inner];
}

describe('captures with secrets planted in them', () => {
  it('leave with none of them, in no form, and with everything else as it was', () => {
    const elsewhere = fc.record({
      way: fc.constantFrom(...WAYS),
      place: fc.constantFrom(...PLACES),
      of: fc.nat(4),
      control: fc.constantFrom(...CONTROLS),
    });
    fc.assert(
      fc.property(
        fc.array(planted, { minLength: 1, maxLength: 5 }),
        fc.array(elsewhere, { minLength: 1, maxLength: 6 }),
        (secrets, others) => {
          const entries = [
            ...others.map(({ way, place, of }) => place(way(secrets[of % secrets.length]?.value ?? ''))),
            ...secrets.map(({ entry }) => entry),
            ...others.map(({ place, control }) => place(control)),
          ];
          const store = new SecretStore({ kinds: KINDS_OF_PRESET.public });
          for (const entry of entries) findInEntry(entry, store, TOOLS);
          const redactor = new Redactor(store);
          const written = entries.map((entry) => redactor.entry(entry, TOOLS));
          const strings = written.flatMap(stringsOf);
          for (const { value } of secrets)
            for (const form of formsOf(value)) expect(strings.find((text) => text.includes(form))).toBeUndefined();
          expect(written.slice(-others.length)).toEqual(entries.slice(-others.length));
          const prover = new Prover(store.secrets.filter(({ isEverywhere }) => isEverywhere));
          for (const [at, entry] of written.entries()) prover.look(entry, `entries[${at}]`);
          expect(prover.leaks).toEqual([]);
          // And it sees what a redactor that does nothing leaves.
          const recorded = new Prover(store.secrets.filter(({ isEverywhere }) => isEverywhere));
          for (const [at, entry] of entries.entries()) recorded.look(entry, `entries[${at}]`);
          const seen = new Set(recorded.leaks.map(({ secret }) => secret.value));
          expect(secrets.every(({ value }) => seen.has(value)) || recorded.leaks.length === 20).toBe(true);
        },
      ),
      { seed: 40, numRuns: 2000 },
    );
  }, 120_000);
});
