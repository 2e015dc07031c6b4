import { groupBy } from '../../collections';
import { formatMs, formatShare } from '../../wording';
import type { Rule } from '../finding';
import { calledAll, indexes } from '../say';

/** Half a second is what 600 kB of images take on a line of 10 Mbit/s: with less there is nothing to look into. */
const LEAST_MS = 500;
/** Some of a load always lies behind the ready page; at two fifths it is about to be most of it. */
const LARGE_SHARE = 0.4;

/** A large share of the load between the two milestones, and what filled it. */
export const readyToLoaded: Rule = function* (subject) {
  for (const { overview, rows } of subject.pages) {
    const { domReadyMs, loadedMs } = overview ?? {};
    if (domReadyMs === undefined || loadedMs === undefined || loadedMs <= 0) continue;
    const between = loadedMs - domReadyMs;
    if (between < LEAST_MS || between / loadedMs < LARGE_SHARE) continue;
    const filling = rows.filter(({ startMs, timeMs, kind }) => {
      const end = (startMs ?? 0) + (timeMs ?? 0);
      return startMs !== undefined && end > domReadyMs && end <= loadedMs && kind !== 'socket' && kind !== 'stream';
    });
    const kinds = [...groupBy(filling, ({ kind }) => kind).values()].sort((a, b) => b.length - a.length).slice(0, 3);
    yield {
      severity: 'note',
      claim: `${formatMs(between)} between DOM ready and loaded, ${formatShare(between / loadedMs)} of the load`,
      detail: `Filled by ${kinds.map(calledAll).join(', ') || 'nothing that was recorded'}.`,
      evidence: indexes(filling.filter(({ index }) => subject.routeMsOf(index) > 0)),
      remedy: 'Lazy-load what is below the fold, so that it does not delay loaded.',
      confidence: 'certain',
    };
  }
};
