// Numbers, instants and counts as the product writes them, in one place for every screen and the command line.
export {
  formatBytes,
  formatCount,
  formatExactBytes,
  formatInstant,
  formatMs,
  formatPlural,
  formatShare,
  formatSpan,
  formatZone,
} from './format';
export { regexReason } from './regex';
