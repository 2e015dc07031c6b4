import { type Draft, joinQuery, LOOP_VARIABLE, placeParameter, readPiece, splitQuery, writePiece } from '../convert';
import { arraySlices, type JsonSteps, writePath } from '../json';
import { capitalised, formatCount, formatPlural } from '../wording';
import type { SeriesResponse } from './series';

/** A change of a request that may make it give more. */
export interface GrowStep {
  /** What is changed, for people. */
  readonly label: string;
  readonly draft: Draft;
}

/** How far the search for more is: plain data, so that it can be kept. */
export interface GrowState {
  /** Rows of the draft unchanged. */
  readonly own?: number;
  /** The most rows that anything gave. */
  readonly most?: { readonly rows: number; readonly by: string };
  /** Changes that gave more, or as many from the first page on: all that follows is asked with them. */
  readonly changes?: readonly Change[];
  /** What leads to the first page and what leaves a filter out, still to be tried. */
  readonly places?: readonly Change[];
  readonly filters?: readonly Change[];
  /** The search for the size is over. */
  readonly isSized: boolean;
  /** The size that what follows is asked with, once one gave more than the unchanged draft, and the rows that came. */
  readonly size?: number;
  readonly rows?: number;
  /** The least size that gave no more. */
  readonly refused?: Refused;
  /** What each change did, for people. */
  readonly told: readonly string[];
  readonly end?: string;
}

/** What was asked for in vain, and what came: fewer rows than before, just as many, none, or none from who is not to be asked again. */
interface Refused {
  readonly size: number;
  readonly by: string;
  readonly came: string;
  readonly rows: 'fewer' | 'as many' | 'none' | 'strained';
}

/** A parameter that is left out, or a search that is empty. */
interface Change {
  readonly name: string;
  readonly does: 'without' | 'empty';
}

/** No service gives more rows at once. */
const LARGEST_SIZE = 100_000;
/** Parameters that say how many rows a page has. */
const SIZE =
  /^(?:(?:page_?)?size|per_?page|limit|count|rows|take|first|max(?:_?results)?|n|num|top|\$top|pagesize|items_?per_?page)$/i;
/** Parameters that say which page: without them mostly the first comes. */
const PLACE = /^(?:page|p|offset|skip|start|cursor|after|before|from|\$skip)$/i;
const ORDER = /^(?:sort|order|order_?by|dir|_)$/i;
/** Values with which a page is the first. */
const FIRST_PAGE = /^[01]?$/;
/** Sizes at which services draw the line, the largest first. */
const ROUND = [50_000, 25_000, 20_000, 10_000, 5000, 2500, 2000, 1000, 500, 250, 200, 100, 50, 25, 20, 10];

/** Parameters that say what is searched for: without any text some services give everything. */
const SEARCH = /^(?:q|query|search|s|term|keywords?|text)$/i;

/** The parameter of a request that says how many rows come; undefined where none is called so. */
export const sizeParameter = ({ url }: Draft): string | undefined =>
  splitQuery(url)
    .pieces.map((piece) => readPiece(piece).name)
    .find((name) => SIZE.test(name));

/**
 * "What is the most it gives?": from the first page, the page size doubled until no more rows come, and where a size is
 * refused the largest that is not; then each filter left out, with that size. Politely, one after the other: behind what
 * strains the service no larger page is asked for.
 */
export class Grow {
  readonly #draft: Draft;
  readonly #parameter: string | undefined;
  readonly #list: JsonSteps;

  constructor(draft: Draft, parameter: string | undefined, list: JsonSteps) {
    this.#draft = draft;
    this.#parameter = parameter;
    this.#list = list;
  }

  begin(): GrowState {
    return { isSized: this.#parameter === undefined, told: [] };
  }

  next(state: GrowState): GrowStep | undefined {
    if (state.end !== undefined) return undefined;
    if (state.own === undefined) return { label: 'unchanged', draft: this.#draft };
    const { changes = [] } = state;
    const [place] = state.places ?? [];
    if (place !== undefined) return this.#asked([...changes, place], undefined);
    if (!state.isSized) return this.#asked(changes, this.#nextSize(state));
    const [filter] = state.filters ?? [];
    return filter === undefined ? undefined : this.#asked([...changes, filter], filterSize(state));
  }

  take(state: GrowState, response: SeriesResponse | undefined): GrowState {
    const step = this.next(state);
    if (step === undefined) return state;
    const isGood = response !== undefined && response.status < 300 && response.text !== undefined;
    const rows = isGood ? arraySlices(response.text ?? '', this.#list)?.length : undefined;
    const came = rows === undefined ? failed(response, this.#list) : formatPlural(rows, 'row');
    const told = [...state.told, `${step.label}: ${came}`];
    if (state.own === undefined) {
      if (rows === undefined) return { ...state, told, end: `The unchanged draft gives no rows: ${came}.` };
      const [places, filters] = this.#changes();
      return this.#ended({ ...state, told, own: rows, rows, most: { rows, by: 'unchanged' }, places, filters });
    }
    const most = rows !== undefined && rows > (state.most?.rows ?? 0) ? { rows, by: step.label } : state.most;
    const after = { ...state, told, ...(most === undefined ? {} : { most }) };
    if ((state.places ?? []).length > 0) return this.#ended(placed(after, rows));
    if (state.isSized)
      return this.#ended(filtered(after, rows, this.#parameter === undefined ? undefined : this.#largest(state)));
    const asked = { size: this.#nextSize(state), largest: this.#largest(state), by: step.label, came, rows };
    return this.#ended(sized(after, { ...asked, isStrained: isStrained(response) }));
  }

  /** The largest size that was not refused. */
  #largest({ size, own = 0 }: GrowState): number {
    if (size !== undefined || this.#parameter === undefined) return size ?? 1;
    const { first } = placeParameter(this.#draft, this.#parameter, 'numbers');
    return Math.max(1, own, /^\d{1,6}$/.test(first) ? Number(first) : 0);
  }

  #nextSize(state: GrowState): number {
    const largest = this.#largest(state);
    const { refused } = state;
    if (refused === undefined) return Math.min(LARGEST_SIZE, 2 * largest);
    // A page that is as full as the one before is all there is, the limit, or a service's own choice of size.
    if (refused.rows === 'as many' || ROUND.includes(largest)) return largest + 1;
    return ROUND.find((one) => one > largest && one < refused.size) ?? Math.floor((largest + refused.size) / 2);
  }

  #ended(state: GrowState): GrowState {
    if (this.next(state) !== undefined || state.most === undefined) return state;
    const { own = 0, size, refused } = state;
    const { rows, by } = state.most;
    if (state.told.length === 1)
      return {
        ...state,
        end: `It gives ${formatPlural(rows, 'row')}: its query has no parameter that could be varied.`,
      };
    const most =
      rows > own
        ? `The most it gave is ${formatPlural(rows, 'row')}, ${withWhat(by)}; unchanged it gave ${formatCount(own)}.`
        : `Nothing gave more than the ${formatPlural(own, 'row')} of the unchanged draft.`;
    if (refused !== undefined)
      return { ...state, end: `${most} ${capitalised(withWhat(refused.by))}: ${refused.came}.` };
    if (rows <= own || size === undefined) return { ...state, end: most };
    if (rows < size)
      return { ...state, end: `${most} Asked for ${formatCount(size)}, it gave fewer: all there are, or its limit.` };
    return { ...state, end: `${most} It was not asked for more.` };
  }

  /** What leads to the first page, and what leaves each filter out. */
  #changes(): readonly [places: Change[], filters: Change[]] {
    const pieces = splitQuery(this.#draft.url).pieces.map(readPiece);
    const places = pieces.filter(({ name, value }) => PLACE.test(name) && !FIRST_PAGE.test(value ?? ''));
    const filters = pieces.filter(
      ({ name }) =>
        name !== '' && name !== this.#parameter && ![PLACE, ORDER, SIZE].some((pattern) => pattern.test(name)),
    );
    const once = (all: typeof pieces): string[] => [...new Set(all.map(({ name }) => name))];
    const without = (name: string): Change => ({ name, does: 'without' });
    return [
      once(places).map(without),
      once(filters).flatMap((name) => (SEARCH.test(name) ? [without(name), { name, does: 'empty' }] : [without(name)])),
    ];
  }

  #asked(changes: readonly Change[], size: number | undefined): GrowStep {
    const changed = changes.reduce(withChange, this.#draft);
    const namesOf = (what: Change['does']): string[] =>
      changes.flatMap(({ name, does }) => (does === what ? name : []));
    const without = namesOf('without');
    const sized = this.#parameter === undefined || size === undefined ? [] : [`${this.#parameter} ${size}`];
    const label = [
      [...sized, ...namesOf('empty').map((name) => `${name} empty`)].join(' and '),
      without.length === 0 ? '' : `without ${without.join(' and ')}`,
    ].filter((part) => part !== '');
    return { label: label.join(' '), draft: size === undefined ? changed : this.#sized(changed, size) };
  }

  #sized(changed: Draft, size: number): Draft {
    if (this.#parameter === undefined) return changed;
    const { draft } = placeParameter(changed, this.#parameter, 'numbers');
    const variables = draft.variables.map((one) =>
      one.name === LOOP_VARIABLE.name ? { ...one, value: String(size) } : one,
    );
    return { ...draft, variables };
  }
}

function withChange(draft: Draft, { name, does }: Change): Draft {
  const { base, pieces } = splitQuery(draft.url);
  const isOther = (piece: string): boolean => readPiece(piece).name !== name;
  const changed =
    does === 'without'
      ? pieces.filter(isOther)
      : pieces.map((piece) => (isOther(piece) ? piece : writePiece(name, '')));
  return { ...draft, url: joinQuery(base, changed) };
}

/** From the first page on, where that gives as much. */
function placed(state: GrowState, rows: number | undefined): GrowState {
  const [place, ...places] = state.places ?? [];
  if (place === undefined || rows === undefined || rows < (state.rows ?? 0)) return { ...state, places };
  return { ...state, places, rows, changes: [...(state.changes ?? []), place] };
}

/** The size to try filters with: where all there are had room on the largest page, one more. */
const filterSize = ({ size, refused }: GrowState): number | undefined =>
  refused?.rows === 'as many' ? refused.size : size;

/** Without a filter, where that gives more; a page that is full then may be larger. */
function filtered(state: GrowState, rows: number | undefined, largest: number | undefined): GrowState {
  const [filter, ...left] = state.filters ?? [];
  if (filter === undefined || rows === undefined || rows <= (state.rows ?? 0)) return { ...state, filters: left };
  const filters = left.filter(({ name }) => name !== filter.name);
  const { refused, ...rest } = state;
  const size = filterSize(state) ?? largest;
  const isLimit = refused?.rows === 'strained' || (refused?.rows === 'none' && refused.size - 1 === size);
  const grows = size !== undefined && rows >= size && size < LARGEST_SIZE && !isLimit;
  const after = { ...rest, filters, rows, changes: [...(state.changes ?? []), filter] };
  if (!grows) return { ...state, ...after };
  // That a larger page gave no more before says nothing now that there is more to come; that it was refused does.
  return { ...after, size, isSized: false, ...(refused?.rows === 'none' ? { refused } : {}) };
}

interface Asked {
  readonly size: number;
  /** The largest size before that was not refused. */
  readonly largest: number;
  readonly by: string;
  readonly came: string;
  /** How many rows came; undefined where it was refused. */
  readonly rows: number | undefined;
  readonly isStrained: boolean;
}

/** More rows, fewer than before or none, or just as many: a larger size, a smaller one, or the end. */
function sized(state: GrowState, { size, largest, by, came, rows, isStrained }: Asked): GrowState {
  const { rows: before = 0, refused } = state;
  if (rows !== undefined && rows > before)
    return { ...state, size, rows, isSized: rows < size || size >= LARGEST_SIZE || size + 1 === refused?.size };
  // Where the page before was not full, as many are all there are, or the limit.
  if (rows === before && before < largest) return { ...state, size, isSized: true };
  const how = rows === undefined ? (isStrained ? 'strained' : 'none') : rows < before ? 'fewer' : 'as many';
  return { ...state, refused: { size, by, came, rows: how }, isSized: isStrained || size <= largest + 1 };
}

/** Where the session is over or the service strained, no smaller page is tried: a plain refusal may be one of the size. */
const isStrained = (response: SeriesResponse | undefined): boolean =>
  response === undefined ||
  [401, 407, 408, 429].includes(response.status) ||
  (response.status >= 300 && response.status < 400) ||
  response.status >= 500;

const withWhat = (label: string): string => (label.startsWith('without ') ? label : `with ${label}`);

const failed = (response: SeriesResponse | undefined, list: JsonSteps): string => {
  if (response === undefined) return 'no response';
  return response.status < 300 ? `no list at ${writePath(list)}` : String(response.status);
};
