import { type CaptureOverview, type ExchangeRow, findLostDocument, nameExchange } from '../analysis';
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

interface Spender {
  readonly words: string;
  readonly ms: number;
}

/** What a load took, and what of it went where, in one or two sentences: only what the route says. */
export function tellBrief(page: BriefPage, rows: ReadonlyMap<ExchangeIndex, ExchangeRow>): string {
  const lost = findLostDocument(rows.values());
  if (lost !== undefined) {
    const after = lost.redirects === 0 ? '' : `after ${formatPlural(lost.redirects, 'redirect')}, `;
    return `The document ${calledWith(lost.asked)} never came (${after}${lost.lost.failure === undefined ? 'not answered' : wordFailure(lost.lost.failure)}).`;
  }
  const wholeMs = page.targetMs - page.originMs;
  const refused = findRefusedDocument(rows.values());
  const how = refused === undefined ? '' : `The document ${calledWith(refused)} was answered ${refused.status}. `;
  const reached = `${how}${REACHED[page.target]} ${formatMs(wholeMs)}`;
  if (wholeMs <= 0) return `${reached}.`;
  const spenders = spendersOf(page.legs, rows)
    .filter(({ ms }) => ms / wholeMs >= WORTH_NAMING)
    .slice(0, MOST_NAMED);
  const [first, ...rest] = spenders;
  if (first === undefined) return `${reached}. No one thing took as much as a seventh of it.`;
  const named = [
    `${shareWords(first.ms / wholeMs)} (${formatMs(first.ms)}) went to ${first.words}`,
    ...rest.map(({ words, ms }) => `${formatMs(ms)} to ${words}`),
  ];
  return `${reached}. ${joinWords(named)}.`;
}

/** The shelf's sentence of a capture, with what the load of its first page waited for longest, where that is worth naming. */
export function tellCard({ sentence, pages }: CaptureOverview, rows: readonly ExchangeRow[]): string {
  const [first] = pages;
  const own = rows.filter(({ pageId }) => pageId === first?.id);
  const plotted = plotPage(own, first);
  if (plotted === undefined || findLostDocument(own) !== undefined) return sentence;
  const [most] = spendersOf(plotted.legs, new Map(own.map((row) => [row.index, row])));
  if (most === undefined || most.ms < WORTH_NAMING * (plotted.targetMs - plotted.originMs)) return sentence;
  const which = pages.length > 1 ? 'the first load' : 'that';
  return `${sentence.replace(/\.$/, '')}; ${formatMs(most.ms)} of ${which} went to ${most.words}.`;
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
  const sums = new Map<string, { ms: number; readonly legs: Map<ExchangeIndex, number> }>();
  const add = (key: string, ms: number | undefined, index: ExchangeIndex | undefined): void => {
    if (ms === undefined || ms <= 0) return;
    const sum = sums.get(key) ?? { ms: 0, legs: new Map<ExchangeIndex, number>() };
    sum.ms += ms;
    if (index !== undefined) sum.legs.set(index, (sum.legs.get(index) ?? 0) + ms);
    sums.set(key, sum);
  };
  const queues = findHiddenQueues(rows.values());
  for (const leg of legs) {
    if (leg.type === 'browser') {
      const again = isPauseBeforeRetry(leg, (index) => rows.get(index)) ? leg.before : undefined;
      add(again === undefined ? 'browser' : `pause ${again}`, leg.endMs - leg.startMs, again);
      continue;
    }
    const host = rows.get(leg.index)?.host ?? '';
    const { heldMs, lookupMs = 0, connectMs = 0, secureMs = 0, sendMs = 0, waitMs, downloadMs } = leg.phases;
    add(`held ${host}`, heldMs, leg.index);
    add(`connecting ${host}`, lookupMs + connectMs + secureMs, leg.index);
    add(`server ${host}`, waitMs, leg.index);
    // A queue that the recorder did not count lies in what it counts as download.
    const queuedMs = Math.min(queues.get(leg.index) ?? 0, downloadMs ?? 0);
    add(`queue ${host}`, queuedMs, leg.index);
    add(`download ${host}`, (downloadMs ?? 0) - queuedMs, leg.index);
    add(`send ${host}`, sendMs, leg.index);
    const known = Object.values(leg.phases).reduce((sum, ms) => sum + ms, 0);
    add(`unknown ${host}`, leg.endMs - leg.startMs - known, leg.index);
  }
  return [...sums]
    .map(([key, { ms, legs: own }]) => ({ words: wordSpender(key, own, rows), ms }))
    .sort((a, b) => b.ms - a.ms);
}

function wordSpender(
  key: string,
  legs: ReadonlyMap<ExchangeIndex, number>,
  rows: ReadonlyMap<ExchangeIndex, ExchangeRow>,
): string {
  if (key === 'browser') return 'the browser’s own work';
  const [what = '', host = ''] = key.split(' ');
  const [only] = legs.size === 1 ? [...legs.keys()] : [];
  const row = only === undefined ? undefined : rows.get(only);
  const name = row === undefined ? undefined : calledWith(row);
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
    case 'pause':
      return `the pause before ${name} was asked for again`;
    case 'download':
      return name === undefined ? `downloads from ${host}` : `downloading ${name}`;
    case 'unknown':
      return name === undefined
        ? `exchanges with ${host}, whose phases are unknown`
        : `${name}, whose phases are unknown`;
    default:
      return `sending to ${host}`;
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
