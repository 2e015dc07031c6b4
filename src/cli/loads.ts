import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import type { ExchangeRow, PageOverview } from '#core/analysis';
import { foretell, takeVisitItem, type VisitItem } from '#core/cache';
import { type ComparedLoad, type ExchangeTraits, takeTraits } from '#core/compare';
import { findingsOn } from '#core/diagnose';
import type { Exchange } from '#core/model';
import { diagnoseFile, type Input, UsageError, withInput } from './input';

/** A load that was read from a file, with what the forecast of the next visit needs. */
export interface ReadLoad {
  readonly load: ComparedLoad;
  readonly startedAt: number | undefined;
  readonly visits: readonly VisitItem[];
}

/** "FILE#2" is the second page of a file; a file of that very name goes first. */
export function splitNamed(named: string): { readonly path: string; readonly number: number | undefined } {
  const [, path = named, number] = existsSync(named) ? [] : (/^(.*)#(\d{1,6})$/.exec(named) ?? []);
  return { path, number: number === undefined ? undefined : Number(number) };
}

/**
 * Reads a load: the first page of a file that has exchanges, or, of "FILE#2", the second one.
 * @throws UsageError where there is no such page
 */
export async function readLoad(named: string): Promise<ReadLoad> {
  const { path, number } = splitNamed(named);
  return await withInput(path, (input) => loadOf(input, number, named));
}

/** The same of an input that is open already. */
export function loadOf(input: Input, number: number | undefined, named: string): ReadLoad {
  const traits = new Map<number, ExchangeTraits>();
  const items = new Map<number, Exchange>();
  const { rows, overview, found, evidence } = diagnoseFile(input, (exchange) =>
    items.set(exchange.index, withoutBody(exchange)),
  );
  for (const [index, exchange] of items)
    traits.set(index, takeTraits(exchange, evidence.get(exchange.index)?.bodyHash));
  const page = choosePage(overview.pages, number, named);
  const own = page === undefined ? rows : rows.filter(({ pageId }) => pageId === page.id);
  const visits = own.flatMap((row) => {
    const exchange = items.get(row.index);
    return exchange === undefined ? [] : [takeVisitItem(exchange, row.preflightFor)];
  });
  return {
    load: {
      name: basename(named),
      page,
      rows: own,
      traits: own.map(({ index }) => traits.get(index) ?? NO_TRAITS),
      findings: findingsOn(found, page?.id),
      foretold: undefined,
    },
    startedAt: page?.startedAt ?? firstStart(own),
    visits,
  };
}

const NO_TRAITS: ExchangeTraits = { priority: undefined, headers: [], bodyHash: undefined };

/** What is kept of every exchange of a file: its body is let go of. */
function withoutBody(exchange: Exchange): Exchange {
  const { outcome, request } = exchange;
  const kept = { ...exchange, request: { ...request, payload: undefined } };
  if (outcome.type === 'unanswered') return kept;
  return { ...kept, outcome: { ...outcome, response: { ...outcome.response, body: undefined } } };
}

export function choosePage(
  pages: readonly PageOverview[],
  number: number | undefined,
  named: string,
): PageOverview | undefined {
  if (number === undefined) return pages.find(({ exchanges }) => exchanges > 0) ?? pages[0];
  const page = pages[number - 1];
  if (page !== undefined) return page;
  throw new UsageError(`${named}: there is no page ${number}; the capture has ${pages.length}.`);
}

const firstStart = (rows: readonly ExchangeRow[]): number | undefined =>
  rows.reduce<number | undefined>(
    (first, { startedAt }) =>
      startedAt !== undefined && (first === undefined || startedAt < first) ? startedAt : first,
    undefined,
  );

/** A load with the forecast for a visit as late as another load's. */
export function foretellFor(own: ReadLoad, other: ReadLoad): ComparedLoad {
  if (own.startedAt === undefined || other.startedAt === undefined || other.startedAt <= own.startedAt) return own.load;
  return { ...own.load, foretold: foretell(own.visits, (other.startedAt - own.startedAt) / 1000) };
}
