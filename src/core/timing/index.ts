// Time: the in-flight profile and the bytes of a load, who asked for what, and the route that the load waited for.
export { type BytePoint, cumulateBytes } from './bytes';
export { CLOCK_RESOLUTION_MS } from './clock';
export { findHiddenQueues, isOneAtATime } from './crowd';
export { phasesWithin } from './legs';
export { findParents, PARENT_EVIDENCE, type ParentClue, type ParentEvidence } from './parents';
export { idleMs, type ProfileSpan, type ProfileStep, profileInFlight } from './profile';
export { findWaits, type Leg, plotRoute, type RouteLink, type RouteStop } from './route';
export { countUpTo } from './sorted';
