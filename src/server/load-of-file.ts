import { basename } from 'node:path';
import type { ExchangeRow, PageOverview } from '#core/analysis';
import { foretell, takeVisitItem, type VisitItem } from '#core/cache';
import { type ComparedLoad, type ExchangeTraits, takeTraits } from '#core/compare';
import { findingsOn } from '#core/diagnose';
import type { Exchange } from '#core/model';
import { diagnoseFile, type Input, UnreadableFile } from './capture-file';

/** A load that was read from a file, with what the forecast of the next visit needs. */
export interface ReadLoad {
  readonly load: ComparedLoad;
  readonly startedAt: number | undefined;
  readonly visits: readonly VisitItem[];
  readonly analysis: ReturnType<typeof diagnoseFile>;
}

/**
 * Reads a load: the first page of a file that has exchanges, or a numbered one.
 * @throws UnreadableFile where there is no such page
 */
export function loadOf(input: Input, number: number | undefined, named: string): ReadLoad {
  const traits = new Map<number, ExchangeTraits>();
  const items = new Map<number, Exchange>();
  const analysis = diagnoseFile(input, (exchange) => items.set(exchange.index, withoutBody(exchange)));
  const { rows, overview, found, evidence } = analysis;
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
    analysis,
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
  throw new UnreadableFile(`${named}: there is no page ${number}; the capture has ${pages.length}.`);
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
