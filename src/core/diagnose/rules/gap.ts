import { type ExchangeRow, findLostDocument, howTimed } from '../../analysis';
import type { GapLeg } from '../../timing';
import { formatMs } from '../../wording';
import type { Rule, Subject } from '../finding';
import { called } from '../say';

/** Twice what people take for at once (100 ms): a gap from here on is felt, and worth looking into. */
const LONG_GAP_MS = 200;
/** Such a script takes a phone a tenth of a second and more to run. */
const LARGE_SCRIPT_BYTES = 200_000;
/** From this share of a gap on, what was in flight in it is as good as nothing. */
const IDLE_SHARE = 0.95;
const SHOWN = 3;

/** Long stretches of the route in which nothing was under way that the load is known to have waited for. */
export const gap: Rule = function* (subject) {
  for (const { brief, rows } of subject.pages) {
    const gaps = (brief?.legs ?? []).flatMap((leg) =>
      leg.type === 'gap' && !leg.isPause && leg.endMs - leg.startMs >= LONG_GAP_MS && isTimed(subject, leg) ? leg : [],
    );
    // Where the document never came, what the browser did was show that.
    if (gaps.length === 0 || findLostDocument(rows) !== undefined || !rows.some(isDuring)) continue;
    if (howTimed(rows) !== 'most') continue;
    const lengthOf = ({ startMs, endMs }: GapLeg): number => endMs - startMs;
    const whole = gaps.reduce((total, one) => total + lengthOf(one), 0);
    const longest = gaps.reduce((most, one) => (lengthOf(one) > lengthOf(most) ? one : most));
    const told = tellCause(subject, longest);
    yield {
      severity: 'costly',
      claim: `${formatMs(whole)} of the route ${gaps.length === 1 ? 'is a gap' : `are ${gaps.length} gaps`}: nothing was in flight that the load is known to have waited for`,
      detail: `${gaps.length === 1 ? 'It is' : `The longest, ${formatMs(lengthOf(longest))}, is`}${where(subject, longest)}. ${told.words}`,
      evidence: [...new Set(gaps.flatMap((one) => [one.after, one.before].filter((index) => index !== undefined)))],
      changes: [
        {
          type: 'no-gap',
          indexes: new Set(gaps.flatMap(({ before }) => before ?? [])),
          isToEnd: gaps.some(({ before }) => before === undefined),
        },
      ],
      remedy: told.remedy,
      confidence: 'certain',
    };
  }
};

/** Where it is not known how long an exchange took, it is not known either that there is a gap behind it. */
const isTimed = (subject: Subject, { after }: GapLeg): boolean =>
  after === undefined || subject.rowOf(after)?.timeMs !== undefined;
/** Took time after the page began: without any such, times are missing or the clocks of page and exchanges differ. */
const isDuring = ({ startMs = 0, timeMs = 0 }: ExchangeRow): boolean => timeMs > 0 && startMs + timeMs > 0;

function where(subject: Subject, { after, before }: GapLeg): string {
  const name = (row: ExchangeRow | undefined): string => (row === undefined ? '' : `${called(row)} (#${row.index})`);
  const [first, second] = [name(subject.rowOf(after)), name(subject.rowOf(before))];
  if (first === '') return second === '' ? ' at the beginning' : ` before ${second}`;
  return second === '' ? ` after ${first}` : ` between ${first} and ${second}`;
}

/** What a gap suggests of its cause, and no more. */
function tellCause(subject: Subject, leg: GapLeg): { readonly words: string; readonly remedy: string } {
  const meanwhile = leg.meanwhile.flatMap((index) => subject.rowOf(index) ?? []);
  const isIdle = leg.idleMs >= (leg.endMs - leg.startMs) * IDLE_SHARE;
  const after = subject.rowOf(leg.after);
  const isScript = after?.kind === 'script' && (after.bodyBytes ?? 0) >= LARGE_SCRIPT_BYTES;
  if (isScript) {
    return {
      words: `A large script had just arrived (#${after.index}): running it may have taken the time.`,
      remedy: 'Record a performance profile of that time; load less script up front.',
    };
  }
  if (isIdle || meanwhile.length === 0) {
    return {
      words:
        'No request was in flight: scripts, layout, a timer, a person or a request that was not recorded may have taken the time.',
      remedy: 'Record a performance profile of that time: it tells scripts and layout from waiting.',
    };
  }
  const shown = meanwhile.slice(0, SHOWN).map((row) => `${called(row)} (#${row.index})`);
  const more = meanwhile.length > shown.length ? ` and ${meanwhile.length - shown.length} more` : '';
  return {
    words: `In flight meanwhile: ${shown.join(', ')}${more}. The capture does not say whether the load waited for any of them.`,
    remedy:
      'Check whether the page waits for what was in flight then; otherwise record a performance profile of that time.',
  };
}
