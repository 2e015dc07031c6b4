// Addresses that bodies name: in pages (html.ts), styles (css.ts), scripts (script.ts), JSON (json.ts) and Link headers
// (link-header.ts), read by real tokenizers; which exchange of a capture each leads to (finder.ts).
export { KnownBodies } from './body-links';
export { type Carrier, LinkFinder, type LinkTarget, type MetDemand, type NamedHow } from './finder';
export type { Manner } from './named';
