import { EACH, type JsonSteps } from '../../json';

/** The stretches of a path between which each of an array is meant. */
export function splitAtEach(at: JsonSteps): JsonSteps[] {
  const end = at.indexOf(EACH);
  return end === -1 ? [at] : [at.slice(0, end), ...splitAtEach(at.slice(end + 1))];
}

/** The steps of a path as arguments of a call. */
export const stepsAsWords = (steps: JsonSteps, quote: (text: string) => string): string =>
  steps.map((step) => (typeof step === 'number' ? step : quote(String(step)))).join(', ');

/** The address that a Link header names as next (RFC 8288 3); the same in every language's expressions. */
export const LINK_NEXT =
  '<([^>]*)>(?:\\s*;\\s*[^\\s=;,"<>]+(?:\\s*=\\s*(?:"[^"]*"|[^\\s=;,"<>]*))?)*?\\s*;\\s*rel\\s*=\\s*(?:"(?:[^"]*\\s)?next(?:\\s[^"]*)?"|next\\s*(?:[;,]|$))';
