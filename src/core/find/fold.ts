import { addTo } from '../collections';
import type { Hit } from './hits';

/** The hits in the items of one list, which are one matter: `$.nights[*].price`. */
export interface FoldedHits {
  readonly path: string;
  readonly hits: readonly [Hit, ...Hit[]];
}

/** As few are read faster than unfolded. */
const LEAST_FOLDED = 4;

/**
 * Folds what was found at the same place of a list's items, where it stands four times or more.
 * @returns hits and folds by the place of their first hit
 */
export function foldHits(hits: readonly Hit[]): (Hit | FoldedHits)[] {
  const byPath = new Map<string, [Hit, ...Hit[]]>();
  const places = hits.map((hit) => {
    const path = listPath(hit);
    if (path === undefined) return undefined;
    const key = `${hit.place}:${path}`;
    addTo(byPath, key, hit);
    return { key, path };
  });
  return hits.flatMap((hit, at): (Hit | FoldedHits)[] => {
    const place = places[at];
    const [first, ...others] = place === undefined ? [] : (byPath.get(place.key) ?? []);
    if (place === undefined || first === undefined || others.length + 1 < LEAST_FOLDED) return [hit];
    return first === hit ? [{ path: place.path, hits: [first, ...others] }] : [];
  });
}

/** The path with every index left open; undefined where there is none, or it leads through no list. */
function listPath({ place, path }: Hit): string | undefined {
  if ((place !== 'response body' && place !== 'request payload') || path?.startsWith('$') !== true) return undefined;
  const open = path.replace(/\[\d+\]/g, '[*]');
  return open === path ? undefined : open;
}
