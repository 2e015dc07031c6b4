// Caching as RFC 9111 has it: what a response allows (policy.ts), where this visit's look-up
// stopped (journey.ts), and what the next visit will do with it (next-visit.ts).

export { type Station, type Stop, tellJourney } from './journey';
export {
  DELAYS,
  type DelayName,
  forecastVisit,
  foretell,
  isDelay,
  type NextVisit,
  nextVisitOf,
  takeVisitItem,
  type VisitForecast,
  type VisitItem,
} from './next-visit';
export { MOST_PERMISSION_SECONDS, permissionSeconds } from './permission';
export { type CachePolicy, readPolicy } from './policy';
