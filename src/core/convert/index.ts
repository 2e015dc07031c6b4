// From a captured request to something that runs: draft.ts with header-policy.ts and value.ts (variables), plan.ts
// (what a client can do), then one file a target in targets/, one a language in quoting/, what they share in writing/;
// and back again from what others wrote down (read/).

export { withAsciiHost } from './addresses';
export { BUSY, withoutAttempts } from './attempts';
export { withFilesBeside } from './beside';
export {
  type CarriedAs,
  type CarrySource,
  findCarries,
  originOf,
  type Sequence,
  type SequenceStep,
  tellCarry,
  writtenAs,
} from './carry';
export { changesOf } from './changes';
export {
  type Draft,
  type DraftHeader,
  type DraftPart,
  type DraftPayload,
  draftFromExchange,
  EMPTY_DRAFT,
  encodeParts,
  FALLBACK_BOUNDARY,
  payloadBytes,
  tellLeftOut,
  type Variable,
} from './draft';
export { freeName, joinQuery, readPiece, splitQuery, writePiece } from './edit';
export { isToBeEncoded } from './encoded-places';
export { harRequest } from './har-request';
export { defaultFor, HEADER_ROLES, type HeaderRole, headerRole, PRESETS, type Preset } from './header-policy';
export { FIRST_LOOP, LOOP_KINDS, type LoopFields, ROW_CHOICES, readLoop } from './loops/fields';
export { LOOP_VARIABLE, type Loop, type NumberPlace } from './loops/loop';
export { suggestLoop } from './loops/paging';
export { placeLoop, placeParameter } from './loops/parameter';
export { planMessage } from './message';
export { DEFAULT_OPTIONS, type RenderOptions } from './options';
export { payloadFields } from './payload-fields';
export { guessSource, type ReadBack, readBack, SOURCES, type SourceId } from './read';
export { renderLoop, renderScript, tellScriptTargets } from './scripts';
export { LINK_NEXT } from './scripts/places';
export { SCRIPT_TARGETS, type ScriptTarget } from './scripts/script-target';
export { maskSecrets } from './secrets';
export { stepOf } from './step-of';
export type { Rendering, Target, TargetId } from './target';
export { findTarget, TARGETS } from './targets';
export { mapTexts } from './texts';
export { fillIn, markOf, VARIABLE_MARK, VARIABLE_NAME } from './value';
