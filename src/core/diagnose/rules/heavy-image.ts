import { heavy } from './heavy';

/** Over the wire: a photo is packed already. A photo as wide as a screen comes to some 200 kB. */
const HEAVY_BYTES = 300_000;

/** Images beyond what a page should ask anybody to wait for. */
export const heavyImage = heavy({
  kind: 'image',
  bytes: HEAVY_BYTES,
  of: 'wireBytes',
  remedy: 'Serve it at the displayed size (srcset), as WebP or AVIF.',
});
