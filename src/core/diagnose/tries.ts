import { type ExchangeRow, middleOf, requestKey, spreadOf } from '../analysis';
import { groupBy } from '../collections';
import type { ExchangeIndex, FailReason } from '../model';
import { countUpTo } from '../timing';
import type { Subject } from './finding';

/** A request that failed and was sent again: its tries in order, up to the first that worked. */
export interface Retry {
  readonly failed: readonly [ExchangeRow, ...ExchangeRow[]];
  readonly worked: ExchangeRow | undefined;
}

export interface Retries {
  readonly retries: readonly Retry[];
  /** True where the same request worked on another try. */
  readonly isRepaired: (row: ExchangeRow) => boolean;
}

/** What is sent again later than this is a new try of a person's, not a retry. */
const WITHIN_MS = 10_000;
/** What was stopped before it left was no try. */
const NEVER_SENT: ReadonlySet<FailReason> = new Set([
  'blocked-by-extension',
  'blocked-by-policy',
  'blocked-as-mixed',
  'blocked-port',
  'blocked',
  'cache-miss',
]);
/** Recorders round starts to the millisecond. */
const CLOCK_MS = 1;

const kept = new WeakMap<readonly ExchangeRow[], Retries>();

/**
 * The requests of a capture that were sent again after a failure: the same by method, URL, operation and payload, on the
 * same page, within ten seconds. Polls are none: what is sent again and again after it worked.
 */
export function retriesIn({ asked }: Pick<Subject, 'asked'>): Retries {
  const known = kept.get(asked);
  if (known !== undefined) return known;
  const sent = asked.filter(({ failure }) => failure?.type !== 'no-response' || !NEVER_SENT.has(failure.reason));
  const retries = [...groupBy(sent, (row) => `${row.pageId ?? ''} ${requestKey(row)}`).values()].flatMap(retriesOf);
  const repaired = new Set<ExchangeIndex>(
    retries.flatMap(({ failed, worked }) => (worked === undefined ? [] : failed.map(({ index }) => index))),
  );
  const found: Retries = { retries, isRepaired: ({ index }) => repaired.has(index) };
  kept.set(asked, found);
  return found;
}

function retriesOf(group: readonly ExchangeRow[]): Retry[] {
  if (group.length < 2) return [];
  const sendings = group.toSorted((a, b) => startOf(a) - startOf(b) || a.index - b.index);
  const pollMs = pollIntervalOf(sendings);
  const retries: Retry[] = [];
  let failed: ExchangeRow[] = [];
  const close = (worked: ExchangeRow | undefined): void => {
    const [first, ...more] = failed;
    if (first !== undefined && (worked !== undefined || more.length > 0))
      retries.push({ failed: [first, ...more], worked });
    failed = [];
  };
  for (const row of sendings) {
    const before = failed.at(-1);
    const waitedMs = before === undefined ? 0 : startOf(row) - endOf(before);
    const isAgain = before !== undefined && waitedMs >= -CLOCK_MS && waitedMs <= WITHIN_MS && waitedMs < pollMs / 2;
    if (before !== undefined && !isAgain) close(undefined);
    if (row.failure !== undefined) failed.push(row);
    else close(isAgain ? row : undefined);
  }
  close(undefined);
  return retries;
}

/** How long a poll pauses after it worked, in ms; endless where the request was not sent again after that. */
function pollIntervalOf(sendings: readonly ExchangeRow[]): number {
  const pauses = sendings.flatMap((row, at) => {
    const next = sendings[at + 1];
    return row.failure === undefined && next !== undefined ? startOf(next) - endOf(row) : [];
  });
  if (pauses.length === 0) return Number.POSITIVE_INFINITY;
  return Math.max(0, middleOf(spreadOf(pauses)) ?? 0);
}

const startOf = ({ startMs = 0 }: ExchangeRow): number => startMs;
const endOf = (row: ExchangeRow): number => startOf(row) + (row.timeMs ?? 0);

/** What came of the same requests later in the capture, in a clause that ends its sentence. */
export function tellLater(
  rows: readonly ExchangeRow[],
  laterOf: (row: ExchangeRow) => ExchangeRow | undefined,
): string {
  const isOne = new Set(rows.map(({ url }) => url)).size === 1;
  const later = rows.flatMap((row) => laterOf(row) ?? []);
  const [first] = later;
  if (first === undefined) return `no later request for ${isOne ? 'it' : 'any of them'} succeeded.`;
  if (isOne) return `sent again later, as #${first.index}, it succeeded.`;
  return `${later.length === rows.length ? 'all' : later.length} of them succeeded when sent again later.`;
}

/** For one that failed: the first of the same request on its page that succeeded after it. */
export function laterSuccesses(
  { asked }: Pick<Subject, 'asked'>,
  failed: readonly ExchangeRow[],
): (row: ExchangeRow) => ExchangeRow | undefined {
  if (failed.length === 0) return () => undefined;
  const keyOf = (row: ExchangeRow): string => `${row.pageId} ${requestKey(row)}`;
  const keys = new Set(failed.map(keyOf));
  const succeeded = groupBy(
    asked.filter((row) => row.failure === undefined && row.status !== undefined && keys.has(keyOf(row))),
    keyOf,
  );
  for (const group of succeeded.values()) group.sort((one, other) => startOf(one) - startOf(other));
  return (row) => {
    const group = succeeded.get(keyOf(row)) ?? [];
    return group[countUpTo(group, startOf, startOf(row))];
  };
}

/** The first sending of each request, of rows in the order of their starts. */
export function firstSendings(rows: readonly ExchangeRow[]): ExchangeRow[] {
  const seen = new Set<string>();
  return rows.filter((row) => {
    const key = `${row.pageId ?? ''} ${requestKey(row)}`;
    const isFirst = !seen.has(key);
    seen.add(key);
    return isFirst;
  });
}
