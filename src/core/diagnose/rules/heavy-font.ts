import { heavy } from './heavy';

/** Over the wire: WOFF2 is packed already. A font of the Latin letters is 20 to 60 kB in WOFF2. */
const HEAVY_BYTES = 100_000;

/** Fonts beyond what a page should ask anybody to wait for. */
export const heavyFont = heavy({
  kind: 'font',
  bytes: HEAVY_BYTES,
  of: 'wireBytes',
  remedy: 'Serve WOFF2, subset to the characters used.',
});
