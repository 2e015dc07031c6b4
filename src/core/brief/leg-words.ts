import { type ExchangeRow, nameExchange } from '../analysis';
import { type ExchangeIndex, PHASES } from '../model';
import type { GapLeg, ParentEvidence } from '../timing';
import { formatMs, PHASE_NAME } from '../wording';
import type { PlottedLeg } from './plotted-leg';

type ExchangeLeg = Extract<PlottedLeg, { type: 'exchange' }>;
type RowOf = (index: ExchangeIndex) => ExchangeRow | undefined;

/** Phases with a smaller share of their leg than this are not told. */
const SHARE_OF_LEG = 0.04;

const EVIDENCE_WORDS: Record<ParentEvidence, string> = {
  redirect: 'redirected here',
  preflight: 'after its preflight',
  declared: 'requested by the one before',
  referenced: 'referenced by the one before',
  referer: 'requested by the one before (Referer)',
  document: 'probably requested by the page',
};
/** It was known before, but began only when that one had ended; the record does not say why. */
const HELD_UP = 'started after the one before; the capture does not say why';

/** What a leg's exchange is called. */
function nameLeg({ index }: ExchangeLeg, rowOf: RowOf): string {
  const row = rowOf(index);
  return row === undefined ? `#${index}` : nameExchange(row);
}

/**
 * Where a leg's time went, and why it came after the one before: "#6 on a.example: server wait 63 ms; after its preflight".
 * @param before the leg before, be it of an exchange: the same host is not named again
 */
function tellLeg(leg: ExchangeLeg, rowOf: RowOf, before: ExchangeLeg | undefined): string {
  const least = (leg.endMs - leg.startMs) * SHARE_OF_LEG;
  const phases = PHASES.map((phase) => ({ phase, ms: leg.phases[phase] ?? 0 }))
    .filter(({ ms }) => ms > least)
    .sort((a, b) => b.ms - a.ms)
    .map(({ phase, ms }) => `${PHASE_NAME[phase]} ${formatMs(ms)}`);
  const spent = phases.length === 0 ? 'no timing breakdown recorded' : phases.join(', ');
  const why = whyItCame(leg);
  const host = rowOf(leg.index)?.host;
  const isSameHost = before !== undefined && rowOf(before.index)?.host === host;
  return `#${leg.index}${isSameHost || host === '' ? '' : ` on ${host}`}: ${spent}${why === undefined ? '' : `; ${why}`}`;
}

const whyItCame = ({ evidence, confidence }: ExchangeLeg): string | undefined =>
  evidence !== undefined ? EVIDENCE_WORDS[evidence] : confidence === 'weak' ? HELD_UP : undefined;

/** What stands at a gap's ends, and what was in flight in it. */
function tellGap({ after, before, isPause, meanwhile, idleMs, startMs, endMs }: GapLeg, rowOf: RowOf): string {
  const name = (index: ExchangeIndex | undefined): string | undefined => {
    const row = index === undefined ? undefined : rowOf(index);
    return row === undefined ? undefined : nameExchange(row);
  };
  const [first, second] = [name(after), name(before)];
  if (isPause && second !== undefined) return `pause before ${second} was sent again`;
  const hasCome = after === undefined || rowOf(after)?.status !== undefined;
  const where =
    first === undefined
      ? second === undefined
        ? ''
        : ` before ${second}`
      : second === undefined
        ? ` after ${first}${hasCome ? '' : ' had failed'}`
        : ` between ${first} and ${second}`;
  const isIdle = idleMs >= (endMs - startMs) * NEARLY;
  const shown = meanwhile.slice(0, SHOWN_MEANWHILE).map((index) => `#${index}`);
  const more = meanwhile.length > shown.length ? ` and ${meanwhile.length - shown.length} more` : '';
  // Of what came and has no time nobody knows when it ended: it may fill the gap, as its neighbours may.
  const isUntimed = [after, before].some((index) => {
    const row = index === undefined ? undefined : rowOf(index);
    return row?.status !== undefined && row.timeMs === undefined;
  });
  if (isUntimed) return `gap${where}; what was in flight is not known`;
  return `gap${where}; ${isIdle || meanwhile.length === 0 ? 'nothing in flight' : `in flight meanwhile: ${shown.join(', ')}${more}`}`;
}
const SHOWN_MEANWHILE = 3;
/** A request that overlaps a gap by less than its rest does not fill it. */
const NEARLY = 0.95;

/** All legs in words, in their order; `name` stands apart for exchanges, which lead to their strips. */
export function tellLegs(
  legs: readonly PlottedLeg[],
  rowOf: RowOf,
): readonly { readonly leg: PlottedLeg; readonly name: string; readonly words: string }[] {
  let before: ExchangeLeg | undefined;
  return legs.map((leg) => {
    if (leg.type === 'gap') return { leg, name: '', words: tellGap(leg, rowOf) };
    const told = { leg, name: nameLeg(leg, rowOf), words: tellLeg(leg, rowOf, before) };
    before = leg;
    return told;
  });
}
