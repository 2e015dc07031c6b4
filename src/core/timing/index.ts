// Time: the in-flight profile and the bytes of a load, who asked for what, and the route that the load waited for.
export { type BytePoint, type ByteSpan, bytesAt, cumulateBytes } from './bytes';
export { CLOCK_RESOLUTION_MS } from './clock';
export { CONNECTIONS_PER_HOST, findHiddenQueues, findQueues, isOneAtATime, type Queue, takesConnection } from './crowd';
export { findHeldBack, type HeldBack } from './held-back';
export { phasesWithin } from './legs';
export { findParents, type ParentClue, type ParentEvidence } from './parents';
export { type InFlightProfile, idleMs, type ProfileSpan, type ProfileStep, profileInFlight } from './profile';
export { findRate, type Rate } from './rate';
export { findRoundTrips, type RoundTrip, serverMsOf } from './round-trip';
export { findWaits, type GapLeg, type Goal, plotRoute } from './route';
export { countUpTo, countWhile } from './sorted';
export type { Holds, RouteLink, RouteStop } from './waits';
