import { PHASES, type PhaseName, setupMs } from '../model';
import { formatBytes, formatMs, tellNoResponse, wordFailure } from '../wording';
import type { ExchangeRow } from './exchange-row';
import { nameExchange } from './naming';
import type { Surroundings } from './surroundings';

const PHASE_WORDS: Record<PhaseName, string> = {
  blockedMs: 'blocked in the browser',
  dnsMs: 'the DNS lookup',
  connectMs: 'connecting',
  tlsMs: 'the TLS handshake',
  sendMs: 'sending the request',
  waitMs: 'waiting for the server',
  receiveMs: 'downloading',
};
/** A phase is named as what took the time from this share of the whole on. */
const MAIN_SHARE = 0.5;

/**
 * The exchange told in two to four sentences, from facts alone: who asked for it, when and on what connection; what came
 * back, from where, what took the time; how that compares with its endpoint's other calls; what it led to. A sentence
 * for which the capture has no fact is left out.
 */
export function tellStory(row: ExchangeRow, around: Surroundings): string {
  const sentences = [tellAsking(row, around), tellOutcome(row), tellComparison(row, around), tellSequel(row, around)];
  return sentences.filter((sentence) => sentence !== undefined).join(' ');
}

function tellOutcome(row: ExchangeRow): string {
  if (row.status === undefined) return tellNoResponse(row.failure, row.timeMs);
  const clauses = [tellAnswer(row), tellBytes(row)].filter((clause) => clause !== undefined);
  const inside =
    row.errorInside === undefined
      ? ''
      : ` Its body says that something went wrong: “${row.errorInside.replace(/\.$/, '')}”.`;
  return `${clauses.join('; ')}.${inside}`;
}

/** "Requested by main.js at 1.05 s, on a connection already open." */
function tellAsking(row: ExchangeRow, around: Surroundings): string | undefined {
  const when = row.startMs === undefined ? '' : ` at ${formatMs(row.startMs)}`;
  const connection = tellConnection(row, around);
  const on = connection === undefined ? '' : `, ${connection}`;
  const { parent, preflightFor } = around;
  if (row.fetchedFor !== undefined)
    return `Sent${when} by the page's service worker, to respond to #${row.fetchedFor}${on}.`;
  if (preflightFor !== undefined) return `Sent${when} as the preflight for ${nameOf(preflightFor)}${on}.`;
  if (parent !== undefined) {
    return `${tellParent(nameOf(parent), row.parentEvidence)}${when}${on}.`;
  }
  if (row.startMs === undefined) return connection === undefined ? undefined : `Sent ${connection}.`;
  return `Started${when}${on}.`;
}

/** Who asked for it, as far as is known: what only names it, and what is only assumed, are no more than that. */
function tellParent(parent: string, evidence: ExchangeRow['parentEvidence']): string {
  switch (evidence) {
    case 'redirect':
      return `Where ${parent} led`;
    case 'preflight':
      return `Sent after ${parent}, its preflight,`;
    case 'declared':
      return `Requested by ${parent}`;
    case 'referenced':
      return `Referenced by ${parent}, requested`;
    case 'referer':
      return `Requested by ${parent}, says its Referer,`;
    case 'document':
    case undefined:
      return `Probably requested by ${parent}`;
    default:
      return evidence satisfies never;
  }
}

function tellConnection(row: ExchangeRow, { sameConnection }: Surroundings): string | undefined {
  const setup = setupMs(row.phases);
  if (setup !== undefined && setup > 0) return `on a new connection, set up in ${formatMs(setup)}`;
  const first = sameConnection[0];
  if (first === undefined || (first.startedAt ?? 0) >= (row.startedAt ?? 0)) return undefined;
  // One that was there before the recording was opened by nobody who is in it.
  return `on the connection that ${nameOf(first)} had ${(setupMs(first.phases) ?? 0) > 0 ? 'opened' : 'used'}`;
}

/** A call is worth a remark from so many times the median of the others on, and from so small a part of it. */
const SLOW_FROM = 1.5;

function tellComparison(row: ExchangeRow, { sameEndpoint, endpointSpread }: Surroundings): string | undefined {
  const { timeMs } = row;
  if (timeMs === undefined || row.status === undefined) return undefined;
  if (endpointSpread.type === 'values') {
    const { values } = endpointSpread;
    if (values.length === 0) return undefined;
    const calls = values.length === 1 ? 'The other call to this endpoint took' : 'Other calls to this endpoint took';
    return `${calls} ${joinWords(values.map(formatMs))}.`;
  }
  const { count, median, max } = endpointSpread;
  const of = `${count + 1} calls to this endpoint, median of the others ${formatMs(median)}`;
  if (timeMs > max) return `Slowest of ${of}.`;
  if (timeMs >= median * SLOW_FROM) {
    const slower = sameEndpoint.filter((other) => (other.timeMs ?? 0) > timeMs).length;
    return `${slower} of ${of}, ${slower === 1 ? 'was' : 'were'} slower.`;
  }
  const others = `median of its ${count} other calls is ${formatMs(median)}.`;
  if (timeMs * SLOW_FROM > median) return `Typical for this endpoint: the ${others}`;
  // What was refused at once is no quick answer.
  return row.failure === undefined ? `Quick for this endpoint: the ${others}` : `The ${others}`;
}

/** What came of it, the gravest first; one sentence at the most, and that it held the load up. */
function tellSequel(row: ExchangeRow, around: Surroundings): string | undefined {
  const sequel = findSequel(row, around);
  const route = row.isOnRoute ? 'On the route: the load waited for it.' : undefined;
  const told = [sequel, route].filter((sentence) => sentence !== undefined);
  return told.length === 0 ? undefined : told.join(' ');
}

function findSequel(row: ExchangeRow, around: Surroundings): string | undefined {
  const { retriedAs, retryOf, redirectedTo, fetchedBefore } = around;
  if (retriedAs !== undefined) {
    const result =
      retriedAs.failure === undefined ? 'and succeeded' : `and failed again: ${wordFailure(retriedAs.failure)}`;
    return `Sent again as ${numberOf(retriedAs)} ${result}.`;
  }
  if (retryOf?.failure !== undefined)
    return `Repeats ${numberOf(retryOf)}, which had failed: ${wordFailure(retryOf.failure)}.`;
  if (redirectedTo !== undefined) return `Redirected to ${nameOf(redirectedTo)}.`;
  const isRefetched = row.method === 'GET' && row.source === 'network' && row.failure === undefined;
  if (isRefetched && fetchedBefore !== undefined) {
    return `The same URL had been requested before, as ${numberOf(fetchedBefore)}.`;
  }
  return undefined;
}

const numberOf = ({ index }: ExchangeRow): string => `#${index}`;
const nameOf = (row: ExchangeRow): string => `${nameExchange(row)} (${numberOf(row)})`;
const joinWords = (words: readonly string[]): string =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;

function tellAnswer(row: ExchangeRow): string {
  const status = `${row.status}`;
  switch (row.source) {
    case 'cache':
    case 'memory':
    case 'disk':
      return `Taken from the browser's ${row.source === 'cache' ? '' : `${row.source} `}cache with status ${status}, without contacting the server`;
    case 'worker':
      return `The page's service worker returned ${status}${row.fetchedAs === undefined ? '' : `, which it fetched over the network (#${row.fetchedAs}),`}${tellTime(row)}`;
    case 'prefetched':
      return `Status ${status}, from what the browser had prefetched`;
    case 'pushed':
      return `Pushed by the server with status ${status} before it was requested`;
    case 'revalidated':
      return `The server confirmed the stored copy (304)${tellTime(row)}`;
    case 'network':
    case 'unknown':
      return `${row.failure?.type === 'cut-off' ? `Cut off after status ${status}` : `Returned ${status}`}${tellTime(row)}`;
    case 'none':
      return 'No response arrived';
    default:
      return row.source satisfies never;
  }
}

function tellTime(row: ExchangeRow): string {
  if (row.timeMs === undefined) return '; duration unknown';
  const [main] = PHASES.filter((name) => (row.phases[name] ?? 0) >= MAIN_SHARE * (row.timeMs ?? 0));
  const total = ` in ${formatMs(row.timeMs)}`;
  const setup = setupMs(row.phases) ?? 0;
  if (row.timeMs > 0 && main === undefined && setup >= MAIN_SHARE * row.timeMs) {
    return `${total}, ${formatMs(setup)} of it setting up the connection`;
  }
  if (row.timeMs === 0 || main === undefined) return total;
  const what = main === 'waitMs' && row.source === 'worker' ? 'waiting for the worker' : PHASE_WORDS[main];
  return `${total}, ${formatMs(row.phases[main])} of it ${what}`;
}

function tellBytes(row: ExchangeRow): string | undefined {
  const { wireBytes, bodyBytes } = row;
  if (bodyBytes === undefined && wireBytes === undefined) return undefined;
  if (wireBytes === 0)
    return bodyBytes === undefined ? 'transfer size recorded as 0' : `${formatBytes(bodyBytes)} decoded`;
  if (bodyBytes === undefined) return `${formatBytes(wireBytes)} on the wire`;
  if (wireBytes === undefined) return `${formatBytes(bodyBytes)} decoded, transfer size unknown`;
  return `${formatBytes(wireBytes)} on the wire, ${formatBytes(bodyBytes)} decoded`;
}
