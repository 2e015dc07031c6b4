// Whether two responses say the same: status, headers and bodies held against each other (same.ts), what changes by itself
// (volatile.ts), and the verdict as a sentence (tell.ts).
export { type HeldResponse, holdAgainst, type Sameness, volatilePlaces } from './same';
export { tellSameness } from './tell';
