import { type Draft, fillIn, LINK_NEXT, LOOP_VARIABLE, type Loop, type NumberPlace, placeLoop } from '../convert';
import { arraySlices, EACH, type JsonSteps, parseExactJson, parseJson, valueAt, writePath } from '../json';
import { findHeader, findLines, hashText, type NameValue } from '../model';
import { formatCount, formatPlural } from '../wording';

/** Loops that send a draft over a range of values and gather what comes. */
export type SeriesLoop = Extract<Loop, { readonly type: 'pages' | 'follow' | 'values' | 'table' | 'files' }>;

/** Why a series is over. */
export interface SeriesEnd {
  /** All there was; its bound; or something that was not as it should be. */
  readonly why: 'done' | 'bounded' | 'failed';
  readonly sentence: string;
}

/** How far a series is: plain data, so that it can be kept and gone on with. */
export interface SeriesState {
  /** Responses that were taken. */
  readonly responses: number;
  readonly rows: number;
  /** What the variable gets next, as it is written there. */
  readonly next: string;
  /** Rows of the first response. */
  readonly firstRows?: number;
  /** What the list of the response before was, told by its length and hash. */
  readonly before?: string;
  /** Addresses that are still to be downloaded; absent before they are known. */
  readonly addresses?: readonly string[];
  /** How many addresses the response named, and how many downloads failed. */
  readonly named?: number;
  readonly failed?: number;
  readonly end?: SeriesEnd;
}

/** One request of a series. */
export interface SeriesRequest {
  /** What the variable has in it, for people. */
  readonly value: string;
  readonly draft: Draft;
}

/** A response as a series reads it. */
export interface SeriesResponse {
  readonly status: number;
  readonly headers: readonly NameValue[];
  /** Its body as text; absent where it is none. */
  readonly text: string | undefined;
}

/** A draft to be sent over a range of values: what to ask for, and what a response means for the rest. The same as the loop's code does. */
export class Series {
  readonly #draft: Draft;
  readonly #loop: SeriesLoop;

  constructor(draft: Draft, loop: SeriesLoop) {
    this.#draft = draft;
    this.#loop = loop;
  }

  begin(): SeriesState {
    const loop = this.#loop;
    const next =
      loop.type === 'pages' ? String(loop.from) : loop.type === 'follow' ? placeLoop(this.#draft, loop).first : '';
    return this.#checked({ responses: 0, rows: 0, next });
  }

  /**
   * The next request, or one behind it.
   * @param ahead how many responses are still awaited; undefined where the request is not known before these have come
   */
  requestAt(state: SeriesState, ahead = 0): SeriesRequest | undefined {
    const loop = this.#loop;
    if (state.end !== undefined) return undefined;
    switch (loop.type) {
      case 'pages': {
        if (ahead > 0 && loop.step === 'rows') return undefined;
        const number = Number(state.next) + (loop.step === 'rows' ? 0 : loop.step * ahead);
        const isPast =
          loop.to !== undefined && (loop.step !== 'rows' && loop.step < 0 ? number < loop.to : number > loop.to);
        if (isPast || state.responses + ahead >= loop.mostPages) return undefined;
        return this.#filled(String(number), String(number));
      }
      case 'follow':
        return ahead > 0 ? undefined : this.#filled(state.next, this.#shown(state.next));
      case 'values': {
        const value = loop.values[state.responses + ahead];
        return value === undefined ? undefined : this.#filled(placeLoop(this.#draft, loop).write(value), value);
      }
      case 'table':
        return ahead > 0 ? undefined : { value: '', draft: this.#draft };
      case 'files': {
        if (state.addresses === undefined) return ahead > 0 ? undefined : { value: '', draft: this.#draft };
        const address = state.addresses[ahead];
        return address === undefined ? undefined : { value: address, draft: this.#download(address) };
      }
      default:
        return loop satisfies never;
    }
  }

  /** What is known once a response has come. @param url that it was asked for */
  take(state: SeriesState, response: SeriesResponse, url: string): SeriesState {
    const request = this.requestAt(state);
    if (request === undefined) return state;
    const named = request.value === '' ? 'The response' : `The response to ${request.value}`;
    const responses = state.responses + 1;
    if (response.status >= FIRST_FAILED) {
      // A file that is gone is told of; the others come all the same.
      if (this.#loop.type === 'files' && state.addresses !== undefined)
        return this.#checked({
          ...state,
          responses,
          addresses: state.addresses.slice(1),
          failed: (state.failed ?? 0) + 1,
        });
      return over({ ...state, responses }, 'failed', `${named} was ${response.status}.`);
    }
    if (this.#loop.type === 'files') return this.#takeFile(state, response, url);
    const { list } = this.#loop;
    const items = response.text === undefined ? undefined : arraySlices(response.text, list);
    if (items === undefined)
      return over({ ...state, responses }, 'failed', `There is no list at ${writePath(list)} in ${lower(named)}.`);
    const hash = `${items.length} ${hashText(items.join())}`;
    const after = { ...state, responses, rows: state.rows + items.length, firstRows: state.firstRows ?? items.length };
    switch (this.#loop.type) {
      case 'pages': {
        const { total, pages, shortEnds, step } = this.#loop;
        // What ends it brings no rows of its own.
        const ended = { ...state, responses };
        if (items.length === 0) return over(ended, 'done', `${named} has no rows.`);
        if (hash === state.before) return over(ended, 'done', `${named} is the one before again.`);
        if (shortEnds && items.length < after.firstRows)
          return over(after, 'done', `${named} has fewer rows than the first.`);
        const [all, last] = [numberAt(total, response), numberAt(pages, response)];
        if (all !== undefined && after.rows >= all) return over(after, 'done', `All ${formatPlural(all, 'row')} came.`);
        if (last !== undefined && responses >= last)
          return over(after, 'done', last === 1 ? 'There is one page.' : `All ${formatCount(last)} pages came.`);
        const next = String(Number(state.next) + (step === 'rows' ? items.length : step));
        return this.#checked({ ...after, before: hash, next });
      }
      case 'follow':
        return this.#follow(after, response, url, named);
      case 'values':
        return this.#checked(after);
      case 'table':
        return over(after, 'done', `${formatPlural(items.length, 'row')} came.`);
      default:
        return this.#loop satisfies never;
    }
  }

  /** What is known where no response came in spite of asking again. */
  fail(state: SeriesState, sentence: string): SeriesState {
    const request = this.requestAt(state);
    // A file that cannot be had costs no other one.
    if (this.#loop.type === 'files' && state.addresses !== undefined)
      return this.#checked({
        ...state,
        responses: state.responses + 1,
        addresses: state.addresses.slice(1),
        failed: (state.failed ?? 0) + 1,
      });
    const named = request === undefined || request.value === '' ? '' : ` to ${request.value}`;
    return over(state, 'failed', `No response${named}. ${sentence}`);
  }

  /** Whether a response holds rows that count: those of what ends a series by being empty or the same again do not. */
  rowsOf(response: SeriesResponse): readonly string[] {
    if (this.#loop.type === 'files' || response.text === undefined || response.status >= FIRST_FAILED) return [];
    return arraySlices(response.text, this.#loop.list) ?? [];
  }

  /** What the next page is asked for by, for people: of an address "?after=x" the "x". */
  #shown(written: string): string {
    const loop = this.#loop as Extract<SeriesLoop, { type: 'follow' }>;
    if (loop.parameter === undefined) return written.replace(/^[?&][^=]*=/, '');
    return placeLoop(this.#draft, loop).read(written);
  }

  #filled(written: string, value: string): SeriesRequest {
    const { draft } = placeLoop(
      this.#draft,
      this.#loop as Extract<SeriesLoop, { type: 'pages' | 'follow' | 'values' }>,
    );
    const variables = draft.variables.map((one) =>
      one.name === LOOP_VARIABLE.name ? { ...one, value: written } : one,
    );
    return { value, draft: { ...draft, variables } };
  }

  /** A state whose next request exists; else its end. */
  #checked(state: SeriesState): SeriesState {
    if (state.end !== undefined || this.requestAt(state) !== undefined) return state;
    const loop = this.#loop;
    if (loop.type === 'files') return filesOver(state);
    const isBounded = loop.type === 'pages' && state.responses >= loop.mostPages;
    if (isBounded && !this.#isPastLast(state))
      return over(state, 'bounded', `Stopped after ${formatPlural(loop.mostPages, 'page')}: there may be more.`);
    return over(state, 'done', 'All values were sent.');
  }

  #isPastLast({ next }: SeriesState): boolean {
    const loop = this.#loop;
    if (loop.type !== 'pages' || loop.to === undefined) return false;
    return loop.step !== 'rows' && loop.step < 0 ? Number(next) < loop.to : Number(next) > loop.to;
  }

  #follow(state: SeriesState, { headers, text }: SeriesResponse, url: string, named: string): SeriesState {
    const loop = this.#loop as Extract<SeriesLoop, { type: 'follow' }>;
    const next = loop.next.in === 'link' ? linkNext(headers) : valueAt(parseExactJson(text ?? ''), loop.next.at);
    if (next === undefined || next === null || next === '' || next === false)
      return over(state, 'done', `${named} names no next page.`);
    let written: string;
    if (loop.parameter === undefined) {
      const address = absolute(String(next), url);
      if (address === undefined) return over(state, 'failed', `${named} names a next page that is no address.`);
      if (address.origin !== new URL(url).origin)
        return over(
          state,
          'failed',
          `The next page is at another site, which is not told the credentials: ${address.href}`,
        );
      written = (address.pathname + address.search).slice(1);
    } else written = placeLoop(this.#draft, loop).write(next);
    if (written === state.next) return over(state, 'done', `${named} names itself as the next page.`);
    if (state.responses >= loop.mostPages)
      return over(state, 'bounded', `Stopped after ${formatPlural(loop.mostPages, 'page')}: there may be more.`);
    return { ...state, next: written };
  }

  #takeFile(state: SeriesState, { text }: SeriesResponse, url: string): SeriesState {
    const responses = state.responses + 1;
    if (state.addresses !== undefined)
      return this.#checked({ ...state, responses, addresses: state.addresses.slice(1) });
    const { at } = this.#loop as Extract<SeriesLoop, { type: 'files' }>;
    const found = valuesAt(parseJson(text ?? ''), at).filter((one) => typeof one === 'string');
    const addresses = found.flatMap((one) => absolute(one, url)?.href ?? []).filter((one) => /^https?:/.test(one));
    if (addresses.length === 0)
      return over({ ...state, responses }, 'failed', `The response names no URL at ${writePath(at)}.`);
    const once = [...new Set(addresses)];
    return this.#checked({ ...state, responses, addresses: once.slice(0, MOST_FILES), named: once.length });
  }

  /** A download: to the draft's own site with its credentials, to others without any. */
  #download(address: string): Draft {
    const own = absolute(fillIn(this.#draft).url, address)?.origin === new URL(address).origin;
    const headers = this.#draft.headers.filter(
      ({ kept, role, name }) =>
        kept && (own ? role === 'credential' || /^user-agent$/i.test(name) : /^user-agent$/i.test(name)),
    );
    return { ...this.#draft, method: 'GET', url: address, headers, payload: { type: 'none' } };
  }
}

/** Statuses from here on say that the request failed (RFC 9110 15.5); redirects are not followed. */
const FIRST_FAILED = 300;
/** More are not downloaded at once. */
const MOST_FILES = 2000;

const over = (state: SeriesState, why: SeriesEnd['why'], sentence: string): SeriesState => ({
  ...state,
  end: { why, sentence },
});

const lower = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);

/** The end of downloads: how many there were, how many failed, and what was left. */
function filesOver(state: SeriesState): SeriesState {
  const asked = state.responses - 1;
  const { named = asked, failed = 0 } = state;
  const bad = failed === 0 ? '' : ` ${formatCount(failed)} of them failed.`;
  return named > asked
    ? over(
        state,
        'bounded',
        `${formatCount(asked)} of ${formatPlural(named, 'file')} asked for: more are not downloaded at once.${bad}`,
      )
    : over(state, 'done', `${formatPlural(asked, 'file')} asked for.${bad}`);
}

function absolute(address: string, base: string): URL | undefined {
  try {
    return new URL(address, base);
  } catch {
    return undefined;
  }
}

/** The address of the next page (RFC 8288 3, rel=next). */
function linkNext(headers: readonly NameValue[]): string | undefined {
  return new RegExp(LINK_NEXT, 'i').exec(findLines(headers, 'link').join(', '))?.[1];
}

/** What a place says as a number (RFC 9110 14.4 of "items 0-24/319"). */
function numberAt(place: NumberPlace | undefined, { headers, text }: SeriesResponse): number | undefined {
  if (place === undefined) return undefined;
  const value =
    place.in === 'json'
      ? valueAt(parseJson(text ?? ''), place.at)
      : Number(/(\d+)\s*$/.exec(findHeader(headers, place.name) ?? '')?.[1] ?? Number.NaN);
  return typeof value === 'number' && !Number.isNaN(value) ? value : undefined;
}

/** The values at a place that may lead through each of an array. */
function valuesAt(value: unknown, steps: JsonSteps): unknown[] {
  const each = steps.indexOf(EACH);
  if (each === -1) return [valueAt(value, steps)];
  const list = valueAt(value, steps.slice(0, each));
  return Array.isArray(list) ? list.flatMap((one) => valuesAt(one, steps.slice(each + 1))) : [];
}
