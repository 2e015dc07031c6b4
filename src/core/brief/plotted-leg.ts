import type { ExchangeIndex, PhaseName } from '../model';
import type { GapLeg, ParentEvidence } from '../timing';

/** How sure it is that a leg waited for the one before it. */
export type Confidence = 'certain' | 'strong' | 'weak';

/** A leg of the route, [startMs, endMs) in ms since the page's start. */
export type PlottedLeg =
  | {
      readonly type: 'exchange';
      readonly index: ExchangeIndex;
      readonly startMs: number;
      readonly endMs: number;
      /** The exchange's phases as far as they lie in the leg. */
      readonly phases: Readonly<Partial<Record<PhaseName, number>>>;
      /** By what its parent is known; absent for the first leg and where nothing tells. */
      readonly evidence: ParentEvidence | undefined;
      readonly confidence: Confidence | undefined;
    }
  | GapLeg;
