import { findLostDocument } from '../../analysis';
import { isPauseBeforeRetry } from '../../brief';
import { formatMs } from '../../wording';
import type { Rule } from '../finding';
import { called } from '../say';

/** A gap on the route from here on is felt, and worth looking into. */
const LONG_GAP_MS = 200;

/** Long stretches of the route in which nothing was under way that the load waited for: the browser itself was at work. */
export const browserWork: Rule = function* (subject) {
  for (const { brief, rows } of subject.pages) {
    const gaps = (brief?.legs ?? []).flatMap((leg) =>
      leg.type === 'browser' && leg.endMs - leg.startMs >= LONG_GAP_MS && !isPauseBeforeRetry(leg, subject.rowOf)
        ? leg
        : [],
    );
    // Where the document never came, what the browser did was show that.
    if (gaps.length === 0 || findLostDocument(rows) !== undefined) continue;
    const whole = gaps.reduce((total, { startMs, endMs }) => total + endMs - startMs, 0);
    const [longest] = gaps.sort((a, b) => b.endMs - b.startMs - (a.endMs - a.startMs));
    const after = subject.rowOf(longest?.after);
    const before = subject.rowOf(longest?.before);
    const between =
      after === undefined
        ? ''
        : ` after ${called(after)} (#${after.index})${before === undefined ? '' : ` and before ${called(before)} (#${before.index})`}`;
    yield {
      severity: 'costly',
      claim: `The browser itself worked for ${formatMs(whole)} of the route`,
      detail: `The longest stretch, ${formatMs((longest?.endMs ?? 0) - (longest?.startMs ?? 0))}, lies${between || ' at the route’s beginning'}: scripts running, parsing, timers, drawing.`,
      evidence: [...new Set(gaps.flatMap((gap) => [gap.after, gap.before].filter((index) => index !== undefined)))],
      cost: { routeMs: whole },
      remedy: 'Record a profile of the scripts in that stretch; load less script before the page needs it.',
      confidence: 'strong',
    };
  }
};
