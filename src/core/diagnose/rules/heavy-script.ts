import { heavy } from './heavy';

/**
 * Decoded, since that is what a browser has to read and compile before anything runs. Some 100 kB packed; a phone of the
 * middle range compiles a megabyte in about a second.
 */
const HEAVY_BYTES = 300_000;

/** Scripts beyond what a page should ask anybody to wait for. */
export const heavyScript = heavy({
  kind: 'script',
  bytes: HEAVY_BYTES,
  of: 'bodyBytes',
  remedy: 'Split the bundle per page; check which libraries it contains.',
});
