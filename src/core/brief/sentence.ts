import { type CaptureOverview, type ExchangeRow, findLostDocument, nameExchange } from '../analysis';
import { groupBy } from '../collections';
import { isRedirectStatus } from '../http';
import type { ExchangeIndex } from '../model';
import { findHiddenQueues } from '../timing';
import { formatMs, formatPlural, wordFailure } from '../wording';
import { type BriefPage, isPauseBeforeRetry, type PlottedLeg, plotPage, type Target } from './page';

const REACHED: Record<Target, string> = {
  loaded: 'Loaded in',
  domReady: 'Loaded is unknown; the DOM was ready after',
  lastExchange: 'No milestone was recorded; the last exchange ended after',
};

/** What is worth naming takes so much of the time. */
const WORTH_NAMING = 0.15;
const MOST_NAMED = 3;

/** What took time of a load. `only` is the exchange that it was for, where that is one alone. */
type Spending =
  | { readonly what: 'browser' }
  | { readonly what: 'pause'; readonly again: ExchangeIndex }
  | {
      readonly what: 'held' | 'connecting' | 'server' | 'queue' | 'download' | 'send' | 'unknown';
      readonly host: string;
      readonly only: ExchangeIndex | undefined;
    };

interface Spender {
  readonly spending: Spending;
  readonly ms: number;
}

/** What a load took, and what of it went where: only what the route says. */
export const tellBrief = (page: BriefPage, rows: ReadonlyMap<ExchangeIndex, ExchangeRow>): string =>
  briefSentences(page, rows).join(' ');

/** The same, a sentence each; the first says how the load ended. */
export function briefSentences(
  page: BriefPage,
  rows: ReadonlyMap<ExchangeIndex, ExchangeRow>,
): readonly [string, ...string[]] {
  const lost = findLostDocument(rows.values());
  if (lost !== undefined) {
    const after = lost.redirects === 0 ? '' : `after ${formatPlural(lost.redirects, 'redirect')}, `;
    const how = lost.lost.failure === undefined ? 'not answered' : wordFailure(lost.lost.failure);
    return [`The document ${calledWith(lost.asked)} never came (${after}${how}).`];
  }
  const wholeMs = page.targetMs - page.originMs;
  const refused = findRefusedDocument(rows.values());
  const reached = `${REACHED[page.target]} ${formatMs(wholeMs)}.`;
  const ended: readonly [string, ...string[]] =
    refused === undefined
      ? [reached]
      : [`The document ${calledWith(refused)} was answered ${refused.status}.`, reached];
  if (wholeMs <= 0) return ended;
  const spenders = spendersOf(page.legs, rows)
    .filter(({ ms }) => ms / wholeMs >= WORTH_NAMING)
    .slice(0, MOST_NAMED);
  const [first, ...rest] = spenders;
  if (first === undefined) return [...ended, 'No one thing took as much as a seventh of it.'];
  const named = [
    `${shareWords(first.ms / wholeMs)} (${formatMs(first.ms)}) went to ${wordSpending(first.spending, rows)}`,
    ...rest.map(({ spending, ms }) => `${formatMs(ms)} to ${wordSpending(spending, rows)}`),
  ];
  return [...ended, `${joinWords(named)}.`];
}

/** The shelf's sentence of a capture, with what the load of its first page waited for longest, where that is worth naming. */
export function tellCard({ sentence, said, pages }: CaptureOverview, rows: readonly ExchangeRow[]): string {
  const [first] = pages;
  const own = rows.filter(({ pageId }) => pageId === first?.id);
  const plotted = plotPage(own, first);
  if (plotted === undefined || findLostDocument(own) !== undefined) return sentence;
  const byIndex = new Map(own.map((row) => [row.index, row]));
  const [most] = spendersOf(plotted.legs, byIndex);
  if (most === undefined || most.ms < WORTH_NAMING * (plotted.targetMs - plotted.originMs)) return sentence;
  const which = pages.length > 1 ? 'the first load' : 'that';
  return `${said}; ${formatMs(most.ms)} of ${which} went to ${wordSpending(most.spending, byIndex)}.`;
}

/** The page's document, where what came for it is an error of the server's: what was loaded then is its error page. */
function findRefusedDocument(rows: Iterable<ExchangeRow>): ExchangeRow | undefined {
  for (const row of rows) {
    const isTop = row.kind === 'document' && (row.parent === undefined || row.parentEvidence === 'redirect');
    if (isTop && row.status !== undefined && !isRedirectStatus(row.status)) return row.status >= 400 ? row : undefined;
  }
  return undefined;
}

const calledWith = (row: ExchangeRow): string => `${nameExchange(row)} (#${row.index})`;

/** Who took the time: browser work as a whole; of each host its server, its downloads, its connections, its queues. */
function spendersOf(legs: readonly PlottedLeg[], rows: ReadonlyMap<ExchangeIndex, ExchangeRow>): Spender[] {
  const spent: { readonly spending: Spending; readonly ms: number }[] = [];
  const queues = findHiddenQueues(rows.values());
  for (const leg of legs) {
    if (leg.type === 'browser') {
      const again = isPauseBeforeRetry(leg, (index) => rows.get(index)) ? leg.before : undefined;
      const spending: Spending = again === undefined ? { what: 'browser' } : { what: 'pause', again };
      spent.push({ spending, ms: leg.endMs - leg.startMs });
      continue;
    }
    const host = rows.get(leg.index)?.host ?? '';
    const {
      heldMs = 0,
      lookupMs = 0,
      connectMs = 0,
      secureMs = 0,
      sendMs = 0,
      waitMs = 0,
      downloadMs = 0,
    } = leg.phases;
    // A queue that the recorder did not count lies in what it counts as download.
    const queuedMs = Math.min(queues.get(leg.index) ?? 0, downloadMs);
    const known = Object.values(leg.phases).reduce((sum, ms) => sum + ms, 0);
    const parts = {
      held: heldMs,
      connecting: lookupMs + connectMs + secureMs,
      server: waitMs,
      queue: queuedMs,
      download: downloadMs - queuedMs,
      send: sendMs,
      unknown: leg.endMs - leg.startMs - known,
    };
    for (const [what, ms] of Object.entries(parts) as [keyof typeof parts, number][])
      spent.push({ spending: { what, host, only: leg.index }, ms });
  }
  const ofKind = groupBy(
    spent.filter(({ ms }) => ms > 0),
    ({ spending }) => JSON.stringify({ ...spending, only: undefined }),
  );
  return [...ofKind.values()]
    .map(([first, ...more]): Spender => {
      const ms = more.reduce((sum, one) => sum + one.ms, first.ms);
      const { spending } = first;
      return { spending: 'only' in spending && more.length > 0 ? { ...spending, only: undefined } : spending, ms };
    })
    .sort((a, b) => b.ms - a.ms);
}

function wordSpending(spending: Spending, rows: ReadonlyMap<ExchangeIndex, ExchangeRow>): string {
  const nameOf = (index: ExchangeIndex | undefined): string | undefined => {
    const row = index === undefined ? undefined : rows.get(index);
    return row === undefined ? undefined : calledWith(row);
  };
  if (spending.what === 'browser') return 'the browser’s own work';
  if (spending.what === 'pause') return `the pause before ${nameOf(spending.again)} was asked for again`;
  const { what, host } = spending;
  const name = nameOf(spending.only);
  switch (what) {
    case 'held':
      return name === undefined
        ? `requests held back before they went to ${host}`
        : `${name}, held back before it was sent`;
    case 'connecting':
      return `connecting to ${host}`;
    case 'server':
      return name === undefined ? `waiting for the server of ${host}` : `waiting for ${host} to answer ${name}`;
    case 'queue':
      return `requests that waited for one of six connections to ${host}`;
    case 'download':
      return name === undefined ? `downloads from ${host}` : `downloading ${name}`;
    case 'send':
      return `sending to ${host}`;
    case 'unknown':
      return name === undefined
        ? `exchanges with ${host}, whose phases are unknown`
        : `${name}, whose phases are unknown`;
    default:
      return what satisfies never;
  }
}

const SHARES: readonly (readonly [number, string])[] = [
  [0.97, 'All of it'],
  [0.87, 'Nearly all of it'],
  [0.79, 'Four fifths of it'],
  [0.71, 'Three quarters of it'],
  [0.6, 'Two thirds of it'],
  [0.53, 'More than half of it'],
  [0.47, 'Half of it'],
  [0.37, 'Two fifths of it'],
  [0.29, 'A third of it'],
  [0.22, 'A quarter of it'],
];

/** A share from 0 to 1 in words, near enough to be true. */
const shareWords = (share: number): string => SHARES.find(([least]) => share >= least)?.[1] ?? 'A fifth of it';

const joinWords = (parts: readonly string[]): string =>
  parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;
