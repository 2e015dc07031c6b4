// What a rehearsal does with a request: which captured response fits it (finder.ts, fit.ts, payload-fields.ts, ranges.ts; nearest.ts where
// none does), what is given (answer.ts, changed.ts) and when (pace.ts), with the captured hosts at addresses of its own
// (addresses.ts, rewrite.ts, policy.ts), and what the request has otherwise than the captured one (differences.ts), in words
// (tell.ts).
export { LocalAddresses, originOf, shownOrigin } from './addresses';
export { allowPreflight, type Given, giveCaptured, isPreflight, lengthTold, mayHaveBody } from './answer';
export type { Asked, CapturedRequest } from './asked';
export {
  type ChangedResponse,
  ChangeError,
  joinChanges,
  RESPONSE_FAILURES,
  readChange,
  readChanges,
  withChange,
  writeChange,
} from './changed';
export { compareRequests, type RequestDifference, type RequestVerdict, verdictOf } from './differences';
export { type Match, ResponseFinder } from './finder';
export { eventsOf, type PlayedMessage, paceOf, playedMessages, type TimeFactor, writeEvent } from './pace';
export { moveInstants, type RewriteTools, rewriteBody, rewriteHeaders } from './rewrite';
export { nameDifference, tellExcuse, tellMiss, tellVerdict } from './tell';
