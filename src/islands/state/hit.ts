import { HIT_PLACES, type Hit, type HitPlace } from '#core/find';

/** A hit as the address keeps it: enough to find it again in the dossier. */
export interface HitTarget {
  readonly place: HitPlace;
  readonly path: string | undefined;
  readonly offset: number;
  readonly length: number;
}

export const writeHit = ({ place, path, offset, match }: Hit): string =>
  `${place}:${offset}:${match.length}${path === undefined ? '' : `:${path}`}`;

export function readHit(text: string | undefined): HitTarget | undefined {
  const match = /^([a-z ]+):(\d{1,9}):(\d{1,6})(?::(.*))?$/s.exec(text ?? '');
  const place = HIT_PLACES.find((known) => known === match?.[1]);
  if (match === null || place === undefined) return undefined;
  return { place, offset: Number(match[2]), length: Number(match[3]), path: match[4] };
}
