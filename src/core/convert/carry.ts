import { addTo } from '../collections';
import { splitUrl } from '../http';
import { parseExactJson } from '../json';
import type { NameValue } from '../model';
import { type Draft, EMPTY_DRAFT } from './draft';
import { freeName } from './edit';
import { encodedPlaces, mapEncoded, mayHaveToBeEncoded, otherPlaces, textOf } from './encoded-places';
import { literally } from './literally';
import { type Around, aroundIn, askedValues, guardedIn } from './page-values';
import { isNamedLike, isShortId, replaceShortIds, type ShortId, ShortIdUses } from './short-ids';
import { mapTexts } from './texts';

/** Where in an answer a value stands. */
export type CarrySource =
  | { readonly type: 'json'; readonly path: readonly (string | number)[]; readonly holds: 'text' | 'number' }
  | { readonly type: 'cookie'; readonly name: string }
  /** Between two texts of a page, the first of which comes there first. */
  | ({ readonly type: 'text' } & Around)
  | { readonly type: 'header'; readonly name: string }
  | { readonly type: 'location' }
  /** A parameter of the Location, as it stands there: of its query or fragment. */
  | { readonly type: 'parameter'; readonly name: string };

/** How later requests have a value: as it was given, or percent-encoded or decoded (RFC 3986 2.1), as a parameter's value is. */
export type CarriedAs = 'plain' | 'encoded' | 'decoded';

/** Whether what stands at a place is a number, which a script makes a text of. */
export const givesNumber = (source: CarrySource): boolean => source.type === 'json' && source.holds === 'number';

/** A value that one answer gave and later requests used. */
export interface Carry {
  /** The variable that it becomes. */
  readonly name: string;
  /** As later requests have it. */
  readonly value: string;
  /** Number of the exchange whose answer gave it. */
  readonly from: number;
  readonly source: CarrySource;
  readonly as: CarriedAs;
  /** Numbers of the exchanges that used it. */
  readonly to: readonly number[];
}

/** A request of a sequence with what its answer held. */
export interface SequenceStep {
  readonly index: number;
  readonly draft: Draft;
  /** How it ended in the capture; the status where that says that it failed. */
  readonly ended: 'well' | 'unanswered' | 'preflight' | number;
  /** It was sent on to its answer's Location. */
  readonly isRedirected: boolean;
  /** How often it was sent in vain before, to a server that was busy: a script tries again as often. */
  readonly retries: number;
  readonly answer: {
    /** The body's text where it is JSON. */
    readonly json: string | undefined;
    /** The body's text where it is a page (HTML). */
    readonly page: string | undefined;
    readonly setCookies: readonly string[];
    /** Headers that may give what later requests need. */
    readonly headers: readonly NameValue[];
    readonly location: string | undefined;
  };
}

/** Steps whose drafts take what earlier answers gave from variables. */
export interface Sequence {
  readonly steps: readonly SequenceStep[];
  readonly carries: readonly Carry[];
}

/** Shorter texts are equal by chance, unless they are ids by their names. */
const LEAST_CHARS = 8;
const MOST_VALUES = 20_000;
/** Forms are sent from one of the last pages. */
const MOST_PAGES = 20;
/** What says of what type something is comes in answers and requests by itself. */
const MIME_TYPE = /^(?:application|audio|font|image|message|model|multipart|text|video)\/[\w.+*-]+(?:\s*;.*)?$/i;

/**
 * Finds the values that an answer was the first to hold and that later requests used, and puts variables in their
 * places. What a request held before its answer did is known from elsewhere.
 */
export function findCarries(steps: readonly SequenceStep[]): Sequence {
  const finder = new CarryFinder(steps);
  for (const [at, step] of steps.entries()) {
    // What a service gives as data is surer than what a page says.
    for (const given of valuesOf(step)) finder.take(at, given);
    for (const given of finder.givenByPagesTo(at + 1)) finder.take(given.at, given);
  }
  const { carries, short } = finder;
  const taken = new Map<number, Carry[]>();
  // Longer values first: one may stand in another.
  const inTurn = [...carries].sort(
    (one, other) => other.value.length - one.value.length || Number(isUnsure(other)) - Number(isUnsure(one)),
  );
  for (const carry of inTurn) {
    for (const index of carry.to) taken.set(index, [...(taken.get(index) ?? []), carry]);
  }
  return {
    carries,
    steps: steps.map((step) => {
      const given = taken.get(step.index) ?? [];
      // First, while its JSON is JSON: a mark in the place of a number is none.
      const draft = putShort(step.draft, given, short);
      return { ...step, draft: given.filter(({ name }) => !short.has(name)).reduce(putIn, draft) };
    }),
  };
}

const WAYS: readonly CarriedAs[] = ['plain', 'encoded', 'decoded'];

/** A value as later requests have it. What has no percent-encoding that can be read stays as it is. */
export function writtenAs(value: string, as: CarriedAs): string {
  if (as === 'plain') return value;
  if (as === 'encoded') return encodeURIComponent(value.toWellFormed());
  try {
    return decodeURIComponent(value);
  } catch {
    return value;
  }
}

/** A header that names the revision of what a response holds (RFC 9110 8.8.3). */
export const isRevision = (name: string): boolean => /^etag$/i.test(name);

/** Finds which values of answers later requests have. */
class CarryFinder {
  readonly carries: Carry[] = [];
  /** Those that are ids by their names alone. */
  readonly short = new Map<string, ShortId>();
  readonly #steps: readonly SequenceStep[];
  readonly #uses: Uses;
  readonly #urls: Uses;
  readonly #shortUses: ShortIdUses;
  readonly #pages: readonly { readonly at: number; readonly page: string }[];
  readonly #carried = new Set<string>();
  readonly #names = new Set<string>();

  constructor(steps: readonly SequenceStep[]) {
    this.#steps = steps;
    this.#pages = steps.flatMap(({ answer: { page } }, at) => (page === undefined ? [] : { at, page }));
    this.#uses = new Uses(steps.map(({ draft }) => textOf(draft)));
    this.#urls = new Uses(steps.map(({ draft }) => draft.url));
    this.#shortUses = new ShortIdUses(steps.map(({ draft }) => draft));
  }

  /** Notes a value that an answer gave, where later requests use it and none before did. */
  take(at: number, given: GivenValue): void {
    const step = this.#steps[at];
    const { value, source } = given;
    if (step === undefined || at === this.#steps.length - 1 || this.#carried.has(value)) return;
    if (value.length < LEAST_CHARS) {
      const id = shortIdOf(step, value, source);
      const name = id === undefined ? undefined : this.#note(step, given, this.#shortUses.of(id, at), 'plain');
      if (name === undefined || id === undefined) return;
      this.short.set(name, id);
      this.#carried.add(value);
      return;
    }
    const ways = WAYS.map((as) => ({ as, written: writtenAs(value, as) }))
      .filter(({ as, written }) => as === 'plain' || (written !== value && written.length >= LEAST_CHARS))
      .map((way) => ({ ...way, users: this.#usersOf(way.written, step, source) }));
    const all = ways.flatMap(({ users }) => users);
    if (all.length === 0 || all.some((user) => user <= at) || MIME_TYPE.test(value)) return;
    this.#carried.add(value);
    for (const { as, written, users } of ways) {
      const unsure = as === 'plain' && mayNeedEncoding(given) ? this.#holding(users, value, encodedPlaces) : [];
      const sure = unsure.length === 0 ? users : this.#holding(users, value, otherPlaces);
      this.#note(step, { ...given, value: written }, sure, as);
      this.#note(step, given, unsure, 'encoded');
    }
  }

  #holding(users: readonly number[], value: string, places: (draft: Draft) => string): readonly number[] {
    return users.filter((user) => wholeOf(value).test(places(this.#steps[user]?.draft ?? EMPTY_DRAFT)));
  }

  /** The requests that have a value: where a redirect leads in their address alone, and a parameter of that in what is not that. */
  #usersOf(value: string, { answer }: SequenceStep, source: CarrySource): readonly number[] {
    const { type } = source;
    if (type === 'location') return this.#urls.of(value);
    const users = this.#uses.of(value);
    if (source.type === 'header' && isRevision(source.name))
      return users.filter((user) => this.#isForRevision(user, value));
    if (type !== 'parameter' || answer.location === undefined) return users;
    const whole = wholeOf(answer.location);
    return users.filter((user) => {
      const draft = this.#steps[user]?.draft;
      return draft !== undefined && wholeOf(value).test(textOf({ ...draft, url: draft.url.replace(whole, '') }));
    });
  }

  /** What asks for a change of just that revision (RFC 9110 13.1.1); caches ask otherwise, by themselves. */
  #isForRevision(user: number, value: string): boolean {
    const headers = this.#steps[user]?.draft.headers ?? [];
    return headers.some((header) => header.kept && /^if-match$/i.test(header.name) && header.value.includes(value));
  }

  #note(step: SequenceStep, { value, source, wanted }: GivenValue, users: readonly number[], as: CarriedAs) {
    if (users.length === 0) return undefined;
    const free = freeName(step.draft, wanted);
    let name = free;
    for (let count = 2; this.#names.has(name); count++) name = `${free}_${count}`;
    this.#names.add(name);
    const to = users.flatMap((user) => this.#steps[user]?.index ?? []);
    this.carries.push({ name, value, from: step.index, source, as, to });
    return name;
  }

  /** The values of a request that the last page before it has that holds them. */
  *givenByPagesTo(user: number): Generator<GivenValue & { readonly at: number }> {
    const draft = this.#steps[user]?.draft;
    if (draft === undefined) return;
    const before = this.#pages.filter(({ at }) => at < user).slice(-MOST_PAGES);
    for (const { name, value } of askedValues(draft)) {
      for (const { at, page } of before.toReversed()) {
        const around = aroundIn(page, { name, value });
        if (around === undefined) continue;
        yield { value, source: { type: 'text', ...around }, wanted: name, at };
        break;
      }
    }
  }
}

/** Whether a value may have to be encoded another time: what a cookie or an address gives is written for such a place already. */
const mayNeedEncoding = ({ value, source }: GivenValue): boolean =>
  (source.type === 'text' || source.type === 'json' || source.type === 'header') && mayHaveToBeEncoded(value);

/** Of what may need it another time the captured value is the same, encoded or not. */
const isUnsure = ({ as, value }: Carry): boolean => as === 'encoded' && !value.includes('%');

/** What words are made of, in the sense that a value stands for itself only where none of these adjoins it. */
const WORD = /[A-Za-z0-9_-]+/g;
const MOST_NAMED = 6;

/** Which texts hold a value as a whole, told by their words: no text is searched that lacks the value's longest one. */
class Uses {
  readonly #texts: readonly string[];
  readonly #byWord = new Map<string, [number, ...number[]]>();

  constructor(texts: readonly string[]) {
    this.#texts = texts;
    for (const [place, text] of texts.entries()) {
      for (const word of new Set(text.match(WORD) ?? [])) addTo(this.#byWord, word, place);
    }
  }

  /** The places of the texts that hold it, in their order. */
  of(value: string): number[] {
    const words = value.match(WORD) ?? [];
    const longest = words.reduce((most, word) => (word.length > most.length ? word : most), '');
    return (this.#byWord.get(longest) ?? []).filter((place) => wholeOf(value).test(this.#texts[place] ?? ''));
  }
}

/** A value where it stands as a whole: "page-1" does not stand in "page-10". */
function wholeOf(value: string): RegExp {
  const text = literally(value);
  const before = /^[A-Za-z0-9_-]/.test(value) ? '(?<![A-Za-z0-9_-])' : '';
  // An address that ends in a slash is no other one that goes on behind it.
  const after = /[A-Za-z0-9_/-]$/.test(value) ? '(?![A-Za-z0-9_-])' : '';
  return new RegExp(before + text + after, 'g');
}

/** What of an answer goes where, in a sentence. */
export function tellCarry({ name, from, to }: Carry): string {
  const named = to.slice(0, MOST_NAMED).map((index) => `#${index}`);
  const more = to.length - named.length;
  return `${name} is taken from the response of #${from} and used in ${named.join(', ')}${more === 0 ? '' : ` and ${more} more`}.`;
}

interface GivenValue {
  readonly value: string;
  readonly source: CarrySource;
  readonly wanted: string;
}

function* valuesOf({ answer, draft }: SequenceStep): Generator<GivenValue> {
  for (const line of answer.setCookies) {
    const [, name = '', value = ''] = /^\s*([^=;]+)=([^;]*)/.exec(line) ?? [];
    yield { value, source: { type: 'cookie', name: name.trim() }, wanted: name };
  }
  for (const { name, value } of answer.headers) yield { value, source: { type: 'header', name }, wanted: name };
  if (answer.location !== undefined) {
    yield { value: answer.location, source: { type: 'location' }, wanted: 'location' };
    for (const piece of answer.location.split(/[?&#]/).slice(1)) {
      const [, name = '', value = ''] = /^([^=]+)=(.*)$/s.exec(piece) ?? [];
      if (name !== '') yield { value, source: { type: 'parameter', name }, wanted: name };
    }
  }
  const root = answer.json === undefined ? undefined : parseExactJson(answer.json);
  if (root === undefined) return;
  let count = 0;
  const stack: { readonly value: unknown; readonly path: readonly (string | number)[] }[] = [{ value: root, path: [] }];
  for (let top = stack.pop(); top !== undefined && count < MOST_VALUES; top = stack.pop()) {
    const { value, path } = top;
    // Longer numbers are not read exactly in every language.
    const isId = typeof value === 'number' && Number.isSafeInteger(value) && value >= 0;
    if ((typeof value === 'string' && value !== '') || isId) {
      count++;
      const holds = isId ? 'number' : 'text';
      yield { value: String(value), source: { type: 'json', path, holds }, wanted: wantedName(path, draft.url) };
    } else if (typeof value === 'object' && value !== null) {
      const isList = Array.isArray(value);
      const members = Object.entries(value as Record<string, unknown>).reverse();
      for (const [key, member] of members) stack.push({ value: member, path: [...path, isList ? Number(key) : key] });
    }
  }
}

/** What a value is called in code: an id by what it is the id of. */
function wantedName(path: readonly (string | number)[], url: string): string {
  const name = lastName(path) ?? 'value';
  if (name.toLowerCase() !== 'id') return name;
  const names = path.filter((one) => typeof one === 'string').slice(0, -1);
  const segments = (splitUrl(url)?.path ?? '').split('/').filter((segment) => /^[a-z][a-z_-]*$/i.test(segment));
  const of = [...segments.slice(-1), ...names].at(-1);
  return of === undefined ? name : `${of.replace(/s$/i, '')}_${name}`;
}

const lastName = (path: readonly (string | number)[]): string | undefined =>
  path.findLast((step) => typeof step === 'string');

/** A value of JSON as an id, where it is one by its name. */
function shortIdOf(step: SequenceStep, value: string, source: CarrySource): ShortId | undefined {
  if (source.type !== 'json' || !isShortId(value, lastName(source.path))) return undefined;
  const names = source.path.filter((name) => typeof name === 'string');
  return { value, names, path: splitUrl(step.draft.url)?.path ?? '' };
}

/** Fewer letters are the same as others' by chance, even where both are ids. */
const LEAST_ID_CHARS = 5;

/** Where an answer gave a value, as a whole or percent-encoded since; undefined where it did not. */
export function originOf(
  step: SequenceStep,
  value: string,
): { readonly source: CarrySource; readonly as: CarriedAs } | undefined {
  for (const given of valuesOf(step)) {
    const as = WAYS.find((way) => writtenAs(given.value, way) === value);
    if (as === undefined) continue;
    const isId = value.length >= LEAST_ID_CHARS && shortIdOf(step, given.value, given.source) !== undefined;
    if (value.length >= LEAST_CHARS || isId) return { source: given.source, as };
  }
  const plain = writtenAs(value, 'decoded');
  const around = step.answer.page === undefined ? undefined : guardedIn(step.answer.page, plain);
  return around === undefined
    ? undefined
    : { source: { type: 'text', ...around }, as: plain === value ? 'plain' : 'encoded' };
}

function putShort(draft: Draft, carries: readonly Carry[], short: ReadonlyMap<string, ShortId>): Draft {
  const ids = carries.flatMap(({ name, value }) => ({ name, value, id: short.get(name) })).filter(({ id }) => id);
  if (ids.length === 0) return draft;
  const put = replaceShortIds(draft, (place) => {
    const found = ids.find(({ value, id }) => value === place.value && id !== undefined && isNamedLike(id, place.name));
    return found === undefined ? undefined : `‹${found.name}›`;
  });
  const variables = ids.map(({ name, value }) => ({ name, value, isSecret: false }));
  return { ...put, variables: [...draft.variables, ...variables] };
}

function putIn(draft: Draft, carry: Carry): Draft {
  const { name, value, source } = carry;
  const change = (text: string): string => text.replace(wholeOf(value), () => `‹${name}›`);
  // Where it leads is asked for; referrers and reports that name it, too, say nothing of their own by that.
  const put =
    source.type === 'location'
      ? { ...draft, url: change(draft.url) }
      : (isUnsure(carry) ? mapEncoded : mapTexts)(draft, change);
  return { ...put, variables: [...draft.variables, { name, value, isSecret: false }] };
}
