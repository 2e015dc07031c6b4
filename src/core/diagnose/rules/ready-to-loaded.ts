import { groupBy } from '../../collections';
import type { Kind } from '../../model';
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
    // Of what came meanwhile, that which a load waits for.
    const filling = rows.filter(({ startMs, timeMs, holds }) => {
      const end = (startMs ?? 0) + (timeMs ?? 0);
      return startMs !== undefined && end > domReadyMs && end <= loadedMs && holds !== undefined;
    });
    const kinds = [...groupBy(filling, ({ kind }) => kind).values()].sort((a, b) => b.length - a.length).slice(0, 3);
    yield {
      severity: 'note',
      claim: `${formatMs(between)} between DOM ready and loaded, ${formatShare(between / loadedMs)} of the load`,
      detail:
        kinds.length === 0
          ? 'Nothing was recorded meanwhile that a load waits for.'
          : `Filled by ${kinds.map(calledAll).join(', ')}.`,
      evidence: indexes(filling.filter(({ index }) => subject.routeMsOf(index) > 0)),
      remedy: remedyFor(kinds[0]?.[0].kind),
      confidence: 'certain',
    };
  }
};

/** What can be done about what there is most of. */
function remedyFor(kind: Kind | undefined): string {
  switch (kind) {
    case 'image':
    case 'media':
    case 'document':
      return 'Lazy-load what is below the fold (loading=lazy), so that it does not delay loaded.';
    case 'script':
      return 'Load scripts that the first screen does not need once they are needed (import()), or after loaded.';
    case undefined:
      return 'Record a performance profile of that time: it tells what the browser did.';
    default:
      return 'Load what the first screen does not need after loaded.';
  }
}
