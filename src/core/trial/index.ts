// Whether two responses say the same: status, headers and bodies held against each other (same.ts), what changes by itself
// (volatile.ts; page-text.ts for pages), the verdict as a sentence (tell.ts),
// and what of it follows from a change of the request (follows.ts).
// A measure may be pasted (pasted.ts). What follows a redirect is a request of its own (hop.ts).
export { followsFrom, requestChanges } from './follows';
export { nextHop } from './hop';
export { readPasted } from './pasted';
export { type HeldResponse, holdAgainst, type PlaceDifference, type Sameness, volatilePlaces } from './same';
export { tellSameness } from './tell';
