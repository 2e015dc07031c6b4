import {
  type CaptureOverview,
  type ExchangeRow,
  findLostDocument,
  hasAnyTime,
  hostInWords,
  howTimed,
  nameExchange,
} from '../analysis';
import { isRedirectStatus } from '../http';
import type { ExchangeIndex } from '../model';
import { formatMs, formatPlural, wordFailure } from '../wording';
import { isMostlyQueue, type Spending } from './ledger';
import type { BriefPage } from './page';

/** How a load ended, or whatever its route leads to. */
function reachedWords({ target, to }: BriefPage, rows: ReadonlyMap<ExchangeIndex, ExchangeRow>): string {
  switch (target) {
    case 'loaded':
      return 'Loaded in';
    case 'domReady':
      return to.type === 'domReady' ? 'DOM ready after' : 'Load time unknown; DOM ready after';
    case 'lastExchange': {
      const isHeld = [...rows.values()].some(({ holds }) => holds !== undefined);
      const ended = hasAnyTime(rows.values()) ? 'ended' : 'began';
      return `No milestone was recorded; the last exchange ${isHeld ? 'that a load waits for ' : ''}${ended} after`;
    }
    case 'milestone':
      return `${to.type === 'milestone' ? to.label : 'The milestone'} was reached after`;
    case 'exchange': {
      const row = to.type === 'exchange' ? rows.get(to.index) : undefined;
      return `${row === undefined ? 'The exchange' : calledWith(row)} ended after`;
    }
    default:
      return target satisfies never;
  }
}

/** What is worth naming takes so much of the time. */
const WORTH_NAMING = 0.15;
const MOST_NAMED = 3;

/** What a load took, and what of it went where: only what the route says. */
export const tellBrief = (page: BriefPage, rows: ReadonlyMap<ExchangeIndex, ExchangeRow>): string =>
  briefSentences(page, rows).join(' ');

/** The same, a sentence each; the first says how the load ended. */
export function briefSentences(
  page: BriefPage,
  rows: ReadonlyMap<ExchangeIndex, ExchangeRow>,
): readonly [string, ...string[]] {
  const isOfLoad = page.to.type === 'load';
  const lost = isOfLoad ? findLostDocument(rows.values()) : undefined;
  if (lost !== undefined) {
    const after = lost.redirects === 0 ? '' : `after ${formatPlural(lost.redirects, 'redirect')}, `;
    const how = lost.lost.failure === undefined ? 'no response' : wordFailure(lost.lost.failure);
    return [`The document ${calledWith(lost.asked)} never came (${after}${how}).`];
  }
  const wholeMs = page.targetMs - page.originMs;
  const refused = isOfLoad ? findRefusedDocument(rows.values()) : undefined;
  const reached = `${reachedWords(page, rows)} ${formatMs(wholeMs)}.`;
  const ended: readonly [string, ...string[]] =
    refused === undefined ? [reached] : [`The document ${calledWith(refused)} returned ${refused.status}.`, reached];
  if (wholeMs <= 0) return ended;
  const timed = howTimed(rows.values());
  if (timed !== 'most')
    return [
      ...ended,
      `${timed === 'none' ? 'Its' : 'Most of its'} exchanges have no times, so what took it cannot be said.`,
    ];
  const spenders = page.ledger.spent.filter(({ ms }) => ms / wholeMs >= WORTH_NAMING).slice(0, MOST_NAMED);
  const [first, ...rest] = spenders;
  if (first === undefined) return [...ended, 'No single cause took 15 % or more of it.'];
  const named = [
    `${shareWords(first.ms / wholeMs)} (${formatMs(first.ms)}) went to ${wordSpending(first.spending, first.ms, rows)}`,
    ...rest.map(({ spending, ms }) => `${formatMs(ms)} to ${wordSpending(spending, ms, rows)}`),
  ];
  return [...ended, `${joinWords(named)}.`];
}

/**
 * The shelf's sentence of a capture, with what the load of its first page waited for longest, where that is worth naming.
 * @param own the exchanges of its first page, or all where it has no pages
 * @param plotted the route of that page
 */
export function tellCard(
  { sentence, said, pages }: CaptureOverview,
  own: readonly ExchangeRow[],
  plotted: BriefPage | undefined,
): string {
  if (plotted === undefined || findLostDocument(own) !== undefined || howTimed(own) !== 'most') return sentence;
  const byIndex = new Map(own.map((row) => [row.index, row]));
  const [most] = plotted.ledger.spent;
  if (most === undefined || most.ms < WORTH_NAMING * (plotted.targetMs - plotted.originMs)) return sentence;
  const which = pages.length > 1 ? 'the first load' : 'that';
  return `${said}; ${formatMs(most.ms)} of ${which} went to ${wordSpending(most.spending, most.ms, byIndex)}.`;
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

function wordSpending(spending: Spending, ms: number, rows: ReadonlyMap<ExchangeIndex, ExchangeRow>): string {
  const nameOf = (index: ExchangeIndex | undefined): string | undefined => {
    const row = index === undefined ? undefined : rows.get(index);
    return row === undefined ? undefined : calledWith(row);
  };
  if (spending.what === 'gap') {
    const isIdle = spending.idleMs >= ms * NEARLY;
    return isIdle
      ? 'gaps with no request in flight'
      : 'gaps in which no request was in flight that it is known to wait for';
  }
  if (spending.what === 'pause')
    return `the pause before ${nameOf(spending.again) ?? 'a failed request'} was sent again`;
  const only = nameOf(spending.only);
  const mostly = nameOf(spending.mostly);
  return `${wordPart(spending, only, ms)}${mostly === undefined ? '' : `, most of it for ${mostly}`}`;
}

/** From this share of a part on it is as good as the whole. */
const NEARLY = 0.95;
/** From this share of a part on a reason for it is told. */
const LARGE_SHARE = 0.5;

const wordQueue = (host: string, only: string | undefined): string =>
  only === undefined
    ? `requests to ${host} that waited for one of six connections`
    : `${only}, which waited for one of six connections`;

type OfExchanges = Extract<Spending, { readonly mostly: unknown }>;

function wordPart(spending: OfExchanges, only: string | undefined, ms: number): string {
  const host = 'host' in spending ? hostInWords(spending.host) : '';
  switch (spending.what) {
    case 'cache':
      return `taking ${only ?? 'responses'} from the browser’s cache`;
    case 'worker':
      return `the page’s service worker, which served ${only ?? 'requests'}`;
    case 'held':
      if (isMostlyQueue({ spending, ms })) return wordQueue(host, only);
      return only === undefined
        ? `requests to ${host}, blocked before they were sent`
        : `${only}, blocked before it was sent`;
    case 'connecting':
      return `connecting to ${host}`;
    case 'wait':
      return `waiting for ${host} to respond${only === undefined ? '' : ` to ${only}`}${wayWords(spending.wayMs ?? 0, ms)}`;
    case 'receive': {
      const { queuedMs = 0 } = spending;
      if (isMostlyQueue({ spending, ms })) return wordQueue(host, only);
      const queued =
        queuedMs < ms * WORTH_NAMING ? '' : `, ${formatMs(queuedMs)} of it a wait for one of six connections`;
      return `${only === undefined ? `receiving responses from ${host}` : `receiving ${only}`}${queued}`;
    }
    case 'send':
      return `sending to ${host}`;
    case 'unknown':
      return only === undefined
        ? `exchanges with ${host} whose phases are unknown`
        : `${only}, whose phases are unknown`;
    default:
      return spending satisfies never;
  }
}

/** What of a wait is no server's doing, where that is most of it. */
function wayWords(wayMs: number, ms: number): string {
  if (wayMs < ms * LARGE_SHARE) return '';
  return wayMs >= ms * NEARLY
    ? ', no longer than the way there and back takes'
    : `, about ${formatMs(wayMs)} of it the way there and back`;
}

const SHARES: readonly (readonly [number, string])[] = [
  [0.995, 'All of it'],
  [0.87, 'Nearly all of it'],
  [0.79, 'Four fifths of it'],
  [0.71, 'Three quarters of it'],
  [0.6, 'Two thirds of it'],
  [0.53, 'More than half of it'],
  [0.47, 'Half of it'],
  [0.37, 'Two fifths of it'],
  [0.29, 'A third of it'],
  [0.22, 'A quarter of it'],
  [0.18, 'A fifth of it'],
];

/** A share from 0 to 1 in words, near enough to be true. */
const shareWords = (share: number): string => SHARES.find(([least]) => share >= least)?.[1] ?? 'A sixth of it';

/** Parts as one: told apart by semicolons where they have commas of their own. */
function joinWords(parts: readonly string[]): string {
  if (parts.length < 2) return parts.join('');
  if (parts.some((part) => part.includes(', '))) return parts.join('; ');
  return `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;
}
