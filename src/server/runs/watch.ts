import { isMeasure, judge, readCondition, tellSubject } from '#core/series';
import { type HeldResponse, holdAgainst } from '#core/trial';
import type { RunOrder, WatchResult } from '#core/wire';
import { formatPlural } from '#core/wording';
import { ServerProblem } from '../problem';
import type { RunContext } from './context';
import { stepOf } from './sender';

/** Longer values are shown by their beginning. */
const MOST_SHOWN = 200;

/** Sends the draft again every so often until its response meets a condition. */
export async function runWatch(context: RunContext, order: Extract<RunOrder, { kind: 'watch' }>): Promise<void> {
  const condition = readCondition(order.until);
  if (typeof condition === 'string') throw new ServerProblem('invalid-input', condition, 'Change the condition.');
  const subject = tellSubject(condition);
  let first = firstStored(context, (held) => isMeasure(condition, held));
  let before: HeldResponse | undefined = context.sent > 0 ? context.stored(context.sent) : undefined;
  let result: WatchResult = context.result.watch ?? { isMet: false, subject };
  for (let count = context.sent; count < order.mostSends && !result.isMet; count++) {
    if (count > 0) await context.sender.rest(order.everyMs);
    const heard = await context.sender.send(context.kept.draft);
    const { response } = heard;
    const judged = response === undefined ? undefined : judge(condition, response.held, first);
    const value = judged?.value?.slice(0, MOST_SHOWN);
    const changed = response === undefined ? 'No response.' : tellChange(before, response.held);
    if (response !== undefined && isMeasure(condition, response.held)) first ??= response.held;
    if (response !== undefined) before = response.held;
    result = {
      isMet: judged?.isMet === true,
      subject,
      ...(value === undefined ? {} : { last: value }),
    };
    const said = value === undefined ? `nothing at ${subject}` : value;
    const label = condition.type !== 'status' && condition.at === undefined ? String(response?.status ?? '') : said;
    const step = stepOf(heard, {
      label: response === undefined ? 'no response' : label,
      sentence: changed,
      verdict: response === undefined ? 'none' : judged?.isMet === true ? 'good' : 'other',
      ...(value === undefined ? {} : { value }),
    });
    await context.keep(heard, step, { watch: result }, tell(result, order, count + 1));
  }
  const end = result.isMet ? '' : ' Ended: that was the last time.';
  await context.know({ watch: result }, tell(result, order, Math.max(context.sent, order.mostSends)) + end);
}

/** The response that changes are told from, of those that came before the run was paused. */
function firstStored(context: RunContext, isOne: (held: HeldResponse) => boolean): HeldResponse | undefined {
  for (let number = 1; number <= context.sent; number++) {
    const held = context.stored(number);
    if (held !== undefined && isOne(held)) return held;
  }
  return undefined;
}

function tell(
  { isMet, subject, last }: WatchResult,
  { until }: Extract<RunOrder, { kind: 'watch' }>,
  count: number,
): string {
  const value =
    last === undefined || subject === 'the response' ? '' : ` ${subject.replace(/^the/, 'The')} is ${short(last)}.`;
  return isMet ? `Met: ${until}.${value}` : `Not met in ${formatPlural(count, 'response')}: ${until}.${value}`;
}

/** What is different from the response before, in a few words. */
function tellChange(before: HeldResponse | undefined, now: HeldResponse): string {
  if (before === undefined) return 'the first response';
  const { differences } = holdAgainst(before, now);
  const counted = differences.filter(({ changes }) => changes === undefined);
  const [first] = counted;
  if (first === undefined) return 'as before';
  const rest = counted.length === 1 ? '' : `; ${formatPlural(counted.length - 1, 'other place')} changed, too`;
  return `${first.place} is ${short(first.is)} now, ${short(first.was)} before${rest}`;
}

const short = (text: string | undefined): string =>
  text === undefined ? 'nothing' : text.length > 40 ? `${text.slice(0, 40)}…` : text;
