import { PHASES, type PhaseName, setupMs } from '../model';
import { formatBytes, formatMs } from '../wording';
import type { ExchangeRow } from './exchange-row';

const PHASE_WORDS: Record<PhaseName, string> = {
  heldMs: 'being held back in the browser',
  lookupMs: 'looking up the name',
  connectMs: 'connecting',
  secureMs: 'securing the connection',
  sendMs: 'sending the request',
  waitMs: 'waiting for the server',
  downloadMs: 'downloading',
};
/** A phase is named as what took the time from this share of the whole on. */
const MAIN_SHARE = 0.5;

/** The exchange told in one sentence, from facts alone: what came back, from where, what took the time, how much. */
export function tellStory(row: ExchangeRow): string {
  if (row.status === undefined) return tellUnanswered(row);
  const clauses = [tellAnswer(row), tellBytes(row)].filter((clause) => clause !== undefined);
  return `${clauses.join('; ')}.`;
}

function tellUnanswered(row: ExchangeRow): string {
  const reason = row.failure?.replace(/^no answer: /, '');
  const because = reason === undefined || reason === 'no answer' ? ', and the capture does not say why' : `: ${reason}`;
  const after = row.timeMs === undefined ? '' : ` after ${formatMs(row.timeMs)}`;
  return `No answer arrived${after}${because}.`;
}

function tellAnswer(row: ExchangeRow): string {
  const status = `${row.status}`;
  switch (row.source) {
    case 'cache':
    case 'memory':
    case 'disk':
      return `Taken from the browser's ${row.source === 'cache' ? '' : `${row.source} `}cache with status ${status}, without asking the server`;
    case 'worker':
      return `Answered ${status} by the page's service worker${tellTime(row)}`;
    case 'prefetched':
      return `Answered ${status} from what the browser had fetched beforehand`;
    case 'pushed':
      return `Pushed by the server with status ${status} before it was asked for`;
    case 'revalidated':
      return `The server confirmed the kept copy${tellTime(row)}`;
    case 'network':
    case 'unknown':
      return `${row.failure?.startsWith('cut off') === true ? `Cut off after status ${status}` : `Answered ${status}`}${tellTime(row)}`;
    case 'none':
      return 'No answer arrived';
    default:
      return row.source satisfies never;
  }
}

function tellTime(row: ExchangeRow): string {
  if (row.timeMs === undefined) return '; how long it took is unknown';
  const [main] = PHASES.filter((name) => (row.phases[name] ?? 0) >= MAIN_SHARE * (row.timeMs ?? 0));
  const total = ` in ${formatMs(row.timeMs)}`;
  const setup = setupMs(row.phases) ?? 0;
  if (row.timeMs > 0 && main === undefined && setup >= MAIN_SHARE * row.timeMs) {
    return `${total}, ${formatMs(setup)} of it setting up the connection`;
  }
  if (row.timeMs === 0 || main === undefined) return total;
  return `${total}, ${formatMs(row.phases[main])} of it ${PHASE_WORDS[main]}`;
}

function tellBytes(row: ExchangeRow): string | undefined {
  const { wireBytes, bodyBytes } = row;
  if (bodyBytes === undefined && wireBytes === undefined) return undefined;
  if (wireBytes === 0)
    return bodyBytes === undefined ? 'nothing crossed the wire' : `${formatBytes(bodyBytes)} of body`;
  if (bodyBytes === undefined) return `${formatBytes(wireBytes)} over the wire`;
  if (wireBytes === undefined) return `${formatBytes(bodyBytes)} of body, wire bytes unknown`;
  return `${formatBytes(wireBytes)} over the wire, ${formatBytes(bodyBytes)} once decoded`;
}
