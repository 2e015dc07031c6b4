// Fingerprints: parts of a name or query that change with each release, or each call, and tell nothing of what is asked for.

/** A run that may be one. */
const RUNS = /[0-9A-Za-z]{6,}/g;
/** A moment as scripts write it, in s or ms since 1970. */
const MOMENT = /^1\d{9}(?:\d{3})?$/;
/** From so many hex digits on one change from letters to digits is enough. */
const LONG_HEX = 8;
const MIXED_FROM = 8;
/** Words in camel case have longer runs of small letters. */
const CAMEL_RUN = 2;

/**
 * Whether a run of letters and digits looks drawn at random: letters and digits in turns ("41ab77"), hex of 8 and more
 * with both, or capitals strewn in. Words with a number behind them ("ridge1600") do not.
 * @param isFile of a file's name a run of digits alone is one, too
 */
function looksDrawn(run: string, isFile: boolean): boolean {
  if (/^\d+$/.test(run)) return isFile || MOMENT.test(run);
  const turns = run.match(/\d+|[A-Za-z]+/g)?.length ?? 0;
  if (turns >= 3) return true;
  if (turns === 2) return /^[0-9a-f]+$|^[0-9A-F]+$/.test(run) && run.length >= LONG_HEX;
  if (run.length < MIXED_FROM || !/[a-z][A-Z]/.test(run)) return false;
  const small = run.match(/[a-z]+/g) ?? [];
  return small.reduce((sum, { length }) => sum + length, 0) / small.length < CAMEL_RUN;
}

/**
 * An address with its fingerprints as "#": the same for two that differ in nothing else.
 * @param isFile of files the path counts too; of what a call asks for the path says which thing is meant
 */
export function withoutFingerprints(url: string, isFile: boolean): string {
  const query = url.indexOf('?');
  const authority = url.indexOf('://');
  const path = url.indexOf('/', authority === -1 ? 0 : authority + 3);
  const from = isFile ? path : query;
  if (from === -1) return url;
  return url.slice(0, from) + url.slice(from).replace(RUNS, (run) => (looksDrawn(run, isFile) ? '#' : run));
}
