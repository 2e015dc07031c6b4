// Numbers, failures, instants and counts as the product writes them, in one place for every screen and the command line.
export { capitalised } from './capitalised';
export { isOfFailureWords, tellNoResponse, wordFailure, wordNoResponse } from './failure';
export {
  exactMs,
  formatBytes,
  formatCost,
  formatCount,
  formatExactBytes,
  formatInstant,
  formatInstantMs,
  formatMs,
  formatPlural,
  formatShare,
  formatSpan,
  formatZone,
  wholeShares,
} from './format';
export { ENTITY, escapeXml, readEntity, unescapeMarkup } from './markup';
export { PHASE_HEIGHT, PHASE_NAME, PHASE_TONE } from './phases';
export { regexReason } from './regex';
export { signedBytes, signedMs, signedWholeMs } from './signed';
export { ACTED_ON, inLine, visible } from './visible';
