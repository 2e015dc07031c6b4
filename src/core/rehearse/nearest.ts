import { queryOf, splitUrl } from '../http';
import { type Exchange, findHeader } from '../model';
import { originOf } from './addresses';
import type { Asked, CapturedRequest } from './asked';
import { compareFields, type FieldDifference, queryFields } from './fit';
import { arrivedFields, capturedFields } from './payload-fields';

/** The captured request that came nearest to one that nothing fits, and why it does not fit. */
export interface Nearest {
  readonly index: number;
  readonly method: string;
  readonly url: string;
  readonly misfits: readonly Misfit[];
}

export type Misfit =
  | { readonly of: 'method'; readonly captured: string }
  | { readonly of: 'host'; readonly captured: string }
  | { readonly of: 'path'; readonly captured: string }
  | ({ readonly of: 'query' | 'payload' } & FieldDifference);

/** So many of one path are looked at in full. */
const MOST_READ = 50;

/** Looks for it among the same path first, then by how much of the path is the same. Undefined where nothing is like it at all. */
export function findNearest(
  asked: Asked,
  byPath: ReadonlyMap<string, readonly CapturedRequest[]>,
  read: (index: number) => Exchange,
): Nearest | undefined {
  let best: { score: number; requests: readonly CapturedRequest[] } | undefined;
  const own = segmentsOf(asked.path);
  for (const [key, requests] of byPath) {
    const space = key.indexOf(' ');
    const [method, path] = [key.slice(0, space), key.slice(space + 1)];
    const score = likeness(own, segmentsOf(path)) * 2 + (method === asked.method.toUpperCase() ? 1 : 0);
    const first = requests[0];
    if (first === undefined) continue;
    const isSameHost = asked.origin === undefined || requests.some(({ url }) => originOf(url) === asked.origin);
    const whole = score + (isSameHost ? 2 : 0);
    if (best === undefined || whole > best.score) best = { score: whole, requests };
  }
  if (best === undefined || best.score < LEAST_LIKE) return undefined;
  let nearest: Nearest | undefined;
  for (const request of best.requests.slice(0, MOST_READ)) {
    const misfits = misfitsOf(asked, request, read);
    if (nearest === undefined || misfits.length < nearest.misfits.length)
      nearest = { index: request.index, method: request.method, url: request.url, misfits };
  }
  return nearest;
}

/** A host or a method alone makes nothing alike. */
const LEAST_LIKE = 4;

const segmentsOf = (path: string): string[] => path.split('/').filter(Boolean);

/** How much of two paths is the same: segments from the front and from the back; more where it is all of them. */
function likeness(one: readonly string[], other: readonly string[]): number {
  const most = Math.min(one.length, other.length);
  let front = 0;
  while (front < most && one[front] === other[front]) front++;
  let back = 0;
  while (back < most - front && one[one.length - 1 - back] === other[other.length - 1 - back]) back++;
  const isWhole = front === one.length && one.length === other.length;
  return front + back + (isWhole ? 3 : 0);
}

function misfitsOf(asked: Asked, request: CapturedRequest, read: (index: number) => Exchange): Misfit[] {
  const path = splitUrl(request.url)?.path ?? '/';
  const origin = originOf(request.url);
  const misfits: Misfit[] = [];
  if (request.method.toUpperCase() !== asked.method.toUpperCase())
    misfits.push({ of: 'method', captured: request.method });
  if (asked.origin !== undefined && origin !== undefined && origin !== asked.origin)
    misfits.push({ of: 'host', captured: origin });
  if (path !== asked.path) misfits.push({ of: 'path', captured: path });
  const counted = (differences: readonly FieldDifference[]): FieldDifference[] =>
    differences.filter(({ changes }) => !changes);
  for (const one of counted(compareFields(queryFields(queryOf(request.url)), queryFields(asked.query))))
    misfits.push({ of: 'query', ...one });
  const own = capturedFields(read(request.index).request);
  const arrived = arrivedFields(asked.path + asked.query, findHeader(asked.headers, 'content-type'), asked.body);
  if (own !== undefined)
    for (const one of counted(compareFields(own.fields, arrived.fields))) misfits.push({ of: 'payload', ...one });
  return misfits;
}
