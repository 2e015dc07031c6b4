// From a captured request to something that runs: draft.ts, header-policy.ts, then one file a target in targets/.
export { type Draft, draftFromExchange } from './draft';
export { PRESETS, type Preset } from './header-policy';
export { maskCredentials } from './mask';
export type { Rendering, Target } from './target';
export { findTarget, TARGETS } from './targets';
