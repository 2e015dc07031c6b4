import { readLoop } from '#core/convert';
import { Series, type SeriesLoop, type SeriesState } from '#core/series';
import type { RunOrder, RunResult } from '#core/wire';
import { formatPlural } from '#core/wording';
import { ServerProblem } from '../problem';
import type { RunContext } from './context';
import { type Heard, stepOf } from './sender';

/** More is not gathered by one series. */
const MOST_BYTES = 500_000_000;

/** The loop of a series; a problem where its fields say none. */
export function loopOf({ loop }: Extract<RunOrder, { kind: 'series' }>): SeriesLoop {
  const read = readLoop(loop);
  if (typeof read === 'string') throw new ServerProblem('invalid-input', read, 'Complete the fields of the series.');
  if (read === undefined || read.type === 'poll')
    throw new ServerProblem('invalid-input', 'These fields are of no series.', 'Choose what the series goes through.');
  return read;
}

/** Sends the draft over a range of values until the responses end it, some at once where they do not hang on one another. */
export async function runSeries(context: RunContext, order: Extract<RunOrder, { kind: 'series' }>): Promise<void> {
  const { sender, kept } = context;
  const loop = loopOf(order);
  const series = new Series(kept.draft, loop);
  const pauseMs = 'pauseMs' in loop ? loop.pauseMs : DOWNLOAD_PAUSE_MS;
  let state = context.result.series ?? series.begin();
  let bytes = 0;
  const result = (of: SeriesState): RunResult => ({ series: of });
  while (state.end === undefined) {
    if (state.responses > 0) await sender.rest(pauseMs);
    const requests = [];
    for (let ahead = 0; ahead < order.atOnce; ahead++) {
      const request = series.requestAt(state, ahead);
      if (request === undefined) break;
      requests.push(request);
    }
    // In the order of their values, whichever came first: what ends a series ends it there.
    const all = await Promise.allSettled(requests.map(({ draft }) => sender.send(draft)));
    for (const [at, one] of all.entries()) {
      if (state.end !== undefined) break;
      // What came before the one that was stopped is not asked for again.
      if (one.status === 'rejected') throw one.reason;
      const heard = one.value;
      const before = state;
      const { response } = heard;
      bytes += response?.bytes ?? 0;
      state = response === undefined ? series.fail(state, heard.remark) : series.take(state, response, heard.url);
      if (bytes > MOST_BYTES && state.end === undefined)
        state = { ...state, end: { why: 'bounded', sentence: 'Stopped: more than 500 MB came.' } };
      const rows = state.rows - before.rows;
      await context.keep(heard, stepFor(heard, requests[at]?.value ?? '', rows), result(state), tellState(state));
    }
  }
  await context.know(result(state), tellState(state));
}

/** Files are downloaded one behind the other, with a pause. */
const DOWNLOAD_PAUSE_MS = 250;

const stepFor = (heard: Heard, value: string, rows: number) =>
  stepOf(heard, {
    label: value === '' ? 'the draft as it is' : value,
    sentence:
      heard.response === undefined
        ? 'No response.'
        : rows > 0
          ? formatPlural(rows, 'row')
          : String(heard.response.status),
    verdict: heard.response === undefined ? 'none' : heard.response.status < 300 ? 'good' : 'other',
    rows,
  });

function tellState({ responses, rows, named, end }: SeriesState): string {
  const gathered = named === undefined ? `, ${formatPlural(rows, 'row')}` : '';
  const what = `${formatPlural(responses, 'response')}${gathered}`;
  return end === undefined ? `${what} so far.` : `${what}. ${end.sentence}`;
}
