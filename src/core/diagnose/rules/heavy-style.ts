import { heavy } from './heavy';

/** Decoded, since that is what a browser has to read before it draws. Some 20 kB packed. */
const HEAVY_BYTES = 100_000;

/** Styles beyond what a page should ask anybody to wait for. */
export const heavyStyle = heavy({
  kind: 'style',
  bytes: HEAVY_BYTES,
  of: 'bodyBytes',
  remedy: 'Remove unused rules; split the rest per page.',
});
