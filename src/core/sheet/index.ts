// The sheet: a draft as one text, an HTTP message with a margin, and back again. write.ts and read.ts are the two ways,
// layouts/ how payloads are laid out (one file each, listed in layouts.ts), strike.ts leaves lines out, groups.ts says what
// the margin says, differ.ts what was there in the captured request, and
// relayout.ts lays the payload out another way. kept.ts is a draft as it is kept; variables.ts what drafts share.
export { type CookieChanges, cookieChanges, withCookies } from './cookies';
export { countLeftOut, differences, type LineDifference } from './differ';
export { DraftFileError, readDraftFile, writeDraftFile } from './draft-file';
export { draftFileToHar, draftsFromHar } from './draft-har';
export { groupsOf, type SheetGroup } from './groups';
export {
  type KeptDraft,
  keptFrom,
  type OldKeptDraft,
  type PackedKeptDraft,
  packKept,
  type SendWay,
  unpackKept,
  withSheet,
} from './kept';
export { LAYOUT_IDS, LAYOUTS } from './layouts';
export { readSheet, type SheetLine, type SheetRead } from './read';
export { attach, relayout } from './relayout';
export { type LayoutId, type Sheet, STRUCK } from './sheet';
export { type SheetEdit, spanOfLine, strikeByPreset, strikeLine, strikeRole } from './strike';
export { placeOf, takeValue, tellTaken } from './take';
export {
  inlined,
  namesOn,
  renamed,
  type SharedVariable,
  shareVariables,
  type TakenFrom,
  usedOn,
  type VariablesChange,
  variablesChange,
  withVariables,
} from './variables';
export { writeSheet } from './write';
