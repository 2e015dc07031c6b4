// Find: search in everything. query.ts (every spelling of a value), written.ts (numbers and dates), search.ts (in a text),
// hits.ts (in an exchange), fold.ts (the hits of one list), signature.ts (what cannot stand in a text, told without reading it).
export { type FoldedHits, foldHits } from './fold';
export { findInBody, findInExchange, HIT_PLACES, type Hit, type HitPlace, type TextToSearch, wordBound } from './hits';
export { findMention } from './mention';
export type { FindQuery, Form, Needle } from './query';
export { prepareSearch, type Search, wordFindProblem } from './search';
export { mayHoldRuns, runsOf, signatureOf } from './signature';
