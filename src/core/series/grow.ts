import { type Draft, joinQuery, LOOP_VARIABLE, placeParameter, readPiece, splitQuery, writePiece } from '../convert';
import { arraySlices, type JsonSteps, writePath } from '../json';
import { formatCount, formatPlural } from '../wording';
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
  /** The size that was asked for last, and the most rows that any size gave. */
  readonly size?: number;
  readonly most?: { readonly rows: number; readonly by: string };
  /** The doubling of the size is over. */
  readonly isSized: boolean;
  /** Parameters that are still to be left out, and searches that are to be empty, as "q=". */
  readonly without?: readonly string[];
  /** What each change did, for people. */
  readonly told: readonly string[];
  readonly end?: string;
}

/** No service gives more rows at once. */
const LARGEST_SIZE = 100_000;
/** Parameters that say how many rows a page has. */
const SIZE =
  /^(?:(?:page_?)?size|per_?page|limit|count|rows|take|first|max(?:_?results)?|n|num|top|\$top|pagesize|items_?per_?page)$/i;
/** Parameters that say which page: leaving them out says nothing of how much there is. */
const PLACE = /^(?:page|p|offset|skip|start|cursor|after|before|from|sort|order|order_?by|dir|\$skip|_)$/i;

/** Parameters that say what is searched for: without any text some services give everything. */
const SEARCH = /^(?:q|query|search|s|term|keywords?|text)$/i;

/** The parameter of a request that says how many rows come; undefined where none is called so. */
export const sizeParameter = ({ url }: Draft): string | undefined =>
  splitQuery(url)
    .pieces.map((piece) => readPiece(piece).name)
    .find((name) => SIZE.test(name));

/**
 * "What is the most it gives?": the page size doubled until no more rows come, then each filter left out. Politely, one
 * after the other; a request that fails ends its branch.
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
    if (!state.isSized && this.#parameter !== undefined) {
      const size = nextSize(state);
      return { label: `${this.#parameter} ${size}`, draft: this.#sized(this.#parameter, size) };
    }
    const [name] = state.without ?? [];
    if (name === undefined) return undefined;
    return name.endsWith('=')
      ? { label: `${name.slice(0, -1)} empty`, draft: this.#emptied(name.slice(0, -1)) }
      : { label: `without ${name}`, draft: this.#without(name) };
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
      return this.#ended({ ...state, told, own: rows, most: { rows, by: 'unchanged' }, without: this.#filters() });
    }
    const most = rows !== undefined && rows > (state.most?.rows ?? 0) ? { rows, by: step.label } : state.most;
    const after = { ...state, told, ...(most === undefined ? {} : { most }) };
    if (!state.isSized) {
      const size = nextSize(state);
      const grew = rows !== undefined && rows > (state.most?.rows ?? 0);
      // Fewer than were asked for is all there is.
      const isSized = !grew || rows < size || size >= LARGEST_SIZE;
      return this.#ended({ ...after, size, isSized });
    }
    return this.#ended({ ...after, without: (state.without ?? []).slice(1) });
  }

  #ended(state: GrowState): GrowState {
    if (this.next(state) !== undefined || state.most === undefined) return state;
    const { rows, by } = state.most;
    if (state.told.length === 1)
      return {
        ...state,
        end: `It gives ${formatPlural(rows, 'row')}: no parameter says how many, and none filters them.`,
      };
    const sentence =
      rows > (state.own ?? 0)
        ? `The most is ${formatPlural(rows, 'row')}, with ${by}; unchanged it gives ${formatCount(state.own ?? 0)}.`
        : `Nothing gives more than the ${formatPlural(state.own ?? 0, 'row')} of the unchanged draft.`;
    return { ...state, end: sentence };
  }

  #filters(): string[] {
    const names = splitQuery(this.#draft.url).pieces.map((piece) => readPiece(piece).name);
    return [...new Set(names)]
      .filter((name) => name !== '' && name !== this.#parameter && !PLACE.test(name) && !SIZE.test(name))
      .flatMap((name) => (SEARCH.test(name) ? [name, `${name}=`] : [name]));
  }

  #sized(parameter: string, size: number): Draft {
    const { draft } = placeParameter(this.#draft, parameter, 'numbers');
    const variables = draft.variables.map((one) =>
      one.name === LOOP_VARIABLE.name ? { ...one, value: String(size) } : one,
    );
    return { ...draft, variables };
  }

  #emptied(name: string): Draft {
    const { base, pieces } = splitQuery(this.#draft.url);
    const empty = pieces.map((piece) => (readPiece(piece).name === name ? writePiece(name, '') : piece));
    return { ...this.#draft, url: joinQuery(base, empty) };
  }

  #without(name: string): Draft {
    const { base, pieces } = splitQuery(this.#draft.url);
    return {
      ...this.#draft,
      url: joinQuery(
        base,
        pieces.filter((piece) => readPiece(piece).name !== name),
      ),
    };
  }
}

const nextSize = ({ size, own }: GrowState): number => Math.min(LARGEST_SIZE, 2 * Math.max(1, size ?? own ?? 1));

const failed = (response: SeriesResponse | undefined, list: JsonSteps): string => {
  if (response === undefined) return 'no response';
  return response.status < 300 ? `no list at ${writePath(list)}` : String(response.status);
};
