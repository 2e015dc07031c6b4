import { groupBy } from '../collections';
import { readHttpDate } from '../http';
import { type Exchange, findHeader, findResponse } from '../model';
import { middleOf, spreadOf } from './spread';

/** Clocks that differ by less are as good as the same: Date has whole seconds, and responses take their time. */
export const CLOCK_TOLERANCE_MS = 2000;

/** Date has whole seconds: on average it is half a second behind the instant that it names. */
const DATE_ROUNDING_MS = 500;

/**
 * The server's clock less the recording computer's, in ms; unknown where nothing came from the server itself, or its start
 * is. Date names the instant at which the response was made, Age how long a cache on the way has had it (RFC 9110 6.6.1,
 * RFC 9111 5.1): held against when the first byte came, as it was recorded.
 */
export function clockOffsetMs(exchange: Exchange): number | undefined {
  const { startedAt, phases, timeMs, source } = exchange;
  const headers = findResponse(exchange)?.headers ?? [];
  const date = readHttpDate(findHeader(headers, 'date'));
  if (date === undefined || startedAt === undefined || source.value !== 'network') return undefined;
  const age = findHeader(headers, 'age')?.trim() ?? '0';
  if (!/^\d+$/.test(age)) return undefined;
  const untilFirstByteMs = (timeMs ?? 0) - (phases.receiveMs ?? 0);
  return date + Number(age) * 1000 + DATE_ROUNDING_MS - (startedAt + untilFirstByteMs);
}

/** Whose clock is off, as far as a capture can tell. Offsets are servers' less the recording computer's, in ms. */
export interface Clocks {
  /** The median of each host. */
  readonly byHost: ReadonlyMap<string, number>;
  /** All hosts are off alike, and there are several: it is the recording computer's clock. */
  readonly recorderMs: number | undefined;
  /** Hosts that are off by themselves, the furthest first; of one alone it cannot be told whose clock it is. */
  readonly off: readonly { readonly host: string; readonly offsetMs: number }[];
  readonly isAlone: boolean;
}

/** One response may have waited on its way: several tell, where there are several. */
const LEAST_RESPONSES = 3;

/** Judges clocks from the offsets of responses. */
export function judgeClocks(
  offsets: readonly { readonly host: string; readonly offsetMs: number | undefined }[],
): Clocks {
  const known = offsets.flatMap(({ host, offsetMs }) => (offsetMs === undefined ? [] : [{ host, offsetMs }]));
  const groups = [...groupBy(known, ({ host }) => host)];
  const telling = groups.filter(([, own]) => own.length >= LEAST_RESPONSES);
  const byHost = new Map(
    (telling.length > 0 ? telling : groups).map(([host, own]) => [host, medianOf(own.map(({ offsetMs }) => offsetMs))]),
  );
  const off = [...byHost]
    .map(([host, offsetMs]) => ({ host, offsetMs }))
    .filter(({ offsetMs }) => Math.abs(offsetMs) >= CLOCK_TOLERANCE_MS)
    .sort((a, b) => Math.abs(b.offsetMs) - Math.abs(a.offsetMs));
  const medians = [...byHost.values()];
  const middle = medianOf(medians);
  const areAlike = medians.every((offsetMs) => Math.abs(offsetMs - middle) < CLOCK_TOLERANCE_MS);
  const isRecorder = medians.length > 1 && areAlike && Math.abs(middle) >= CLOCK_TOLERANCE_MS;
  return {
    byHost,
    recorderMs: isRecorder ? middle : undefined,
    off: isRecorder ? [] : off,
    isAlone: medians.length === 1,
  };
}

const medianOf = (values: readonly number[]): number => middleOf(spreadOf(values)) ?? 0;
