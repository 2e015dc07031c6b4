// From a captured request to something that runs: draft.ts with header-policy.ts and value.ts (variables), plan.ts
// (what a client can do), then one file a target in targets/, one a language in quoting/, what they share in writing/;
// and back again from what others wrote down (read/).

export { withoutAttempts } from './attempts';
export { withFilesBeside } from './beside';
export { findCarries, type Sequence, type SequenceStep, stepOf, tellCarry } from './carry';
export { changesOf } from './changes';
export {
  type Draft,
  type DraftPart,
  type DraftPayload,
  draftFromExchange,
  EMPTY_DRAFT,
  encodeParts,
  FALLBACK_BOUNDARY,
  PAYLOAD_TYPES,
  payloadBytes,
  tellLeftOut,
} from './draft';
export {
  addHeader,
  changeHeader,
  dropHeader,
  dropVariable,
  freeName,
  joinQuery,
  keepAll,
  liftHeader,
  liftText,
  readPiece,
  renameVariable,
  splitQuery,
  usePreset,
  withContentType,
  writePiece,
} from './edit';
export { HEADER_ROLES, PRESETS, type Preset } from './header-policy';
export { type KeptDraft, type PackedKeptDraft, packKept, unpackKept } from './kept';
export { FIRST_LOOP, LOOP_KINDS, type LoopFields, ROW_CHOICES, readLoop } from './loops/fields';
export type { Loop } from './loops/loop';
export { suggestLoop } from './loops/paging';
export { placeParameter } from './loops/parameter';
export { planMessage } from './message';
export { DEFAULT_OPTIONS, type RenderOptions } from './options';
export { guessSource, type ReadBack, readBack, SOURCES, type SourceId } from './read';
export { renderLoop, renderScript, tellScriptTargets } from './scripts';
export { SCRIPT_TARGETS, type ScriptTarget } from './scripts/script-target';
export { maskSecrets } from './secrets';
export type { Rendering, Target, TargetId } from './target';
export { findTarget, TARGETS } from './targets';
export { fillIn, VARIABLE_NAME } from './value';
