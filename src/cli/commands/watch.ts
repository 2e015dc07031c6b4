import type { RunOrder } from '#core/wire';
import { runWatch } from '#server/runs/watch';
import { UsageError } from '../input';
import { print, tell } from '../output';
import { type RunOptions, readRequest, runContext, running } from '../sending';

export interface WatchOptions extends RunOptions {
  readonly every: string;
  readonly until: string;
  readonly most?: string;
  readonly json?: true;
}

const UNITS: Readonly<Record<string, number>> = { ms: 1, s: 1000, min: 60_000, h: 3_600_000 };

/** Sends a request again every so often until its response meets a condition; prints what it was each time. */
export async function watch(file: string | undefined, place: string | undefined, options: WatchOptions): Promise<void> {
  const [, number = '', unit = 's'] = /^(\d+(?:\.\d+)?)(ms|s|min|h)?$/.exec(options.every) ?? [];
  const everyMs = Number(number) * (UNITS[unit] ?? 0);
  if (!(everyMs >= 1000)) throw new UsageError('--every takes a time like 30s, 5min or 1h, of at least one second.');
  const mostSends = options.most === undefined ? 1000 : Number(options.most);
  if (!Number.isInteger(mostSends) || mostSends < 1) throw new UsageError('--most takes a whole number from 1 on.');
  const request = await readRequest(file, place, options);
  const { context, end } = runContext(request, options, ({ label, sentence, value }, { sentAt }) => {
    if (options.json === true) print(`${JSON.stringify({ at: new Date(sentAt).toISOString(), value, sentence })}\n`);
    else print(`${new Date(sentAt).toISOString()} ${label}: ${sentence}\n`);
  });
  const order: Extract<RunOrder, { kind: 'watch' }> = { kind: 'watch', until: options.until, everyMs, mostSends };
  await running(() => runWatch(context, order));
  const { result, sentence } = end();
  tell(sentence);
  if (result.watch?.isMet !== true) process.exitCode = 1;
}
