// Which parts of a request are needed, found by trials: the parts of a draft (parts.ts), the search over them (search.ts),
// the trials from the control to the proof with somebody to ask (run.ts), and what is said of it (tell.ts).
export { clientAgentOf } from './client-agent';
export { type Part, partName, partsOf, withoutParts } from './parts';
export { type TrimHeard, type TrimOutcome, trimDraft } from './run';
export type { Found } from './search';
export { tellReason } from './tell';
