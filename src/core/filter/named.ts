import type { ExchangeRow } from '../analysis';
import { DELAYS, foretell, isDelay, takeVisitItem, type VisitItem } from '../cache';
import { type Exchange, findResponse, type NameValue } from '../model';
import { type PackedTexts, packTexts } from '../wire';
import type { KnownName } from './complete';
import type { NamedField } from './fields';

// The named fields that are not in the rows: headers, cookies and the next visit, read from the exchanges themselves.

/** Every column name that an exchange has a value for: "req.accept", "res.etag", "cookie.session". */
function namesOf(exchange: Exchange): Set<string> {
  const response = findResponse(exchange)?.headers ?? [];
  const names = new Set<string>();
  for (const { name } of exchange.request.headers) names.add(`req.${name.toLowerCase()}`);
  for (const { name } of response) names.add(`res.${name.toLowerCase()}`);
  for (const { name } of cookiesOf(exchange.request.headers, response)) names.add(`cookie.${name}`);
  return names;
}

/** Counts, over the exchanges that it is given, how many have each named column. */
export class NameCounter {
  readonly #counts = new Map<string, number>();

  add(exchange: Exchange): void {
    for (const name of namesOf(exchange)) this.#counts.set(name, (this.#counts.get(name) ?? 0) + 1);
  }

  /** The names in the order of the alphabet. */
  names(): KnownName[] {
    return [...this.#counts].map(([name, count]) => ({ name, count })).sort((a, b) => (a.name < b.name ? -1 : 1));
  }
}

/** The named columns of a capture: all its exchanges are given to it, one at a time. */
export class NamedCells {
  readonly #rows: readonly ExchangeRow[];
  readonly #placeOf: ReadonlyMap<number, number>;
  readonly #cells: ReadonlyMap<string, (string | undefined)[]>;
  readonly #visits: VisitItem[] = [];
  readonly #asksForVisits: boolean;

  /**
   * @param names of columns, as "req.accept" or "forecast.day"
   * @param rows the exchanges that the columns are of, in their order
   */
  constructor(names: readonly string[], rows: readonly ExchangeRow[]) {
    this.#rows = rows;
    this.#placeOf = new Map(rows.map(({ index }, place) => [index, place]));
    this.#cells = new Map(names.map((name) => [name, new Array<string | undefined>(rows.length).fill(undefined)]));
    this.#asksForVisits = names.some((name) => delayOf(name) !== undefined);
  }

  add(exchange: Exchange): void {
    const place = this.#placeOf.get(exchange.index);
    if (place === undefined) return;
    for (const [name, cells] of this.#cells) if (delayOf(name) === undefined) cells[place] = namedValue(exchange, name);
    if (this.#asksForVisits) this.#visits.push(takeVisitItem(exchange, this.#rows[place]?.preflightFor));
  }

  columns(): Map<string, PackedTexts> {
    for (const [name, cells] of this.#cells) {
      const delay = delayOf(name);
      if (delay === undefined) continue;
      const nexts = foretell(this.#visits, DELAYS[delay]);
      for (const [at, { index }] of this.#visits.entries()) cells[this.#placeOf.get(index) ?? -1] = nexts[at];
    }
    return new Map([...this.#cells].map(([name, cells]) => [name, packTexts(cells)]));
  }
}

/** The delay that a column of the next visit is about. */
function delayOf(column: string): keyof typeof DELAYS | undefined {
  const key = column.startsWith('forecast.') ? column.slice('forecast.'.length) : '';
  return isDelay(key) ? key : undefined;
}

/** The value of a named column for an exchange, several of them one on each line; undefined where it has none. */
export function namedValue(exchange: Exchange, column: string): string | undefined {
  const dot = column.indexOf('.');
  const key = column.slice(dot + 1);
  const values = valuesOf(exchange, column.slice(0, dot) as EntryField, key);
  return values.length === 0 ? undefined : [...new Set(values)].join('\n');
}

/** The named fields that an exchange alone has values for. */
type EntryField = Exclude<NamedField, 'query' | 'forecast'>;

function valuesOf(exchange: Exchange, field: EntryField, key: string): string[] {
  const request = exchange.request.headers;
  const response = findResponse(exchange)?.headers ?? [];
  const named = (pairs: readonly NameValue[]): string[] =>
    pairs.flatMap(({ name, value }) => (name.length === key.length && name.toLowerCase() === key ? value : []));
  switch (field) {
    case 'req':
      return named(request);
    case 'res':
      return named(response);
    case 'cookie':
      return cookiesOf(request, response).flatMap(({ name, value }) => (name === key ? value : []));
    default:
      return field satisfies never;
  }
}

/** Cookies sent (RFC 6265 4.2) and set (4.1), each pair by its name. */
function cookiesOf(request: readonly NameValue[], response: readonly NameValue[]): NameValue[] {
  const pairs: NameValue[] = [];
  const add = (pair: string): void => {
    const equals = pair.indexOf('=');
    const name = pair.slice(0, Math.max(0, equals)).trim();
    if (name !== '') pairs.push({ name, value: pair.slice(equals + 1).trim() });
  };
  for (const { name, value } of request)
    if (name.toLowerCase() === 'cookie') for (const pair of value.split(';')) add(pair);
  for (const { name, value } of response) if (name.toLowerCase() === 'set-cookie') add(value.split(';')[0] ?? '');
  return pairs;
}
