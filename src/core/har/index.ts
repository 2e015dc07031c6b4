// Bytes to Capture and back. Reading order: split.ts (bytes to spans), read.ts (spans to JSON), normalise.ts (JSON to
// the model) with timings.ts, kind.ts, source.ts beside it, write.ts (back again), wording.ts (what went wrong).
export { captureName, mayHoldCapture } from './file-name';
export { essence } from './kind';
export { misreadText, rereadText } from './misread';
export { normaliseEntry } from './normalise';
export { NOTE_BEGINS } from './note';
export { normalisePage } from './page';
export { HarError, type HarProblem } from './problem';
export { type HarEnd, type HarOutline, HarReader } from './read';
export { readBodyText } from './recorded';
export { isObject, type Json, type JsonObject, member } from './shape';
export { settleSource } from './source';
export { harError, wordHarProblem } from './wording';
export { writeHar } from './write';
