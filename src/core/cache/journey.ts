import { type Exchange, findHeader, findResponse, type Source } from '../model';
import type { CachePolicy } from './policy';

/** Where a browser looks for an answer, in this order. */
export type Station = 'worker' | 'browser' | 'on-the-way' | 'origin';

/** One stop of a look-up: whether it gave the answer, passed the question on, or was never asked. */
export interface Stop {
  readonly station: Station;
  readonly did: 'answered' | 'passed' | 'not-asked' | 'unknown';
  readonly says: string;
}

const NOT_ASKED = 'It was not asked any more.';

/** What gave the answer, of those before the network. */
const BEFORE_NETWORK: Partial<Record<Source, { readonly station: Station; readonly says: string }>> = {
  worker: { station: 'worker', says: 'The page’s service worker answered.' },
  memory: { station: 'browser', says: 'It had a copy in memory.' },
  disk: { station: 'browser', says: 'It had a copy on disk.' },
  cache: { station: 'browser', says: 'It had a copy, in memory or on disk.' },
  prefetched: { station: 'browser', says: 'It had fetched the answer ahead.' },
  pushed: { station: 'browser', says: 'The server had pushed the answer before it was asked for.' },
};

/**
 * The look-up of an answer as a journey: the page's worker, the browser's cache, caches on the way, the origin; where
 * this one stopped, and why the stops before had nothing (RFC 9111 4). What this visit did is what its source says.
 */
export function tellJourney(
  exchange: Exchange,
  source: Source,
  policy: Pick<CachePolicy, 'shared' | 'sharedBecause'> | undefined,
): Stop[] {
  const early = BEFORE_NETWORK[source];
  if (early?.station === 'worker') {
    return [
      { station: 'worker', did: 'answered', says: early.says },
      ...(['browser', 'on-the-way', 'origin'] as const).map(
        (station): Stop => ({ station, did: 'not-asked', says: 'By this exchange it was not asked.' }),
      ),
    ];
  }
  const worker: Stop = { station: 'worker', did: 'passed', says: 'No service worker is said to have answered.' };
  if (early !== undefined) {
    return [
      worker,
      { station: 'browser', did: 'answered', says: early.says },
      { station: 'on-the-way', did: 'not-asked', says: NOT_ASKED },
      { station: 'origin', did: 'not-asked', says: NOT_ASKED },
    ];
  }
  if (source === 'unknown') {
    const says = 'The record does not tell.';
    return [
      worker,
      ...(['browser', 'on-the-way', 'origin'] as const).map((station): Stop => ({ station, did: 'unknown', says })),
    ];
  }
  const browser: Stop = { station: 'browser', did: 'passed', says: whyPassed(exchange, source) };
  return [worker, browser, ...tellNetwork(exchange, source, policy)];
}

/** Why the browser's own cache did not give the answer. */
function whyPassed({ request }: Exchange, source: Source): string {
  const validator = ['If-None-Match', 'If-Modified-Since'].find(
    (name) => findHeader(request.headers, name) !== undefined,
  );
  if (source === 'revalidated') {
    return `It had a copy, and asked whether that is still good${validator === undefined ? '' : ` by ${validator}`}.`;
  }
  if (request.method !== 'GET' && request.method !== 'HEAD') return `Answers to ${request.method} are not looked up.`;
  const control = findHeader(request.headers, 'cache-control') ?? '';
  const told = /no-store|no-cache|max-age=0/i.exec(control)?.[0];
  if (told !== undefined) return `It was told to pass its copies by (${told}).`;
  if (/no-cache/i.test(findHeader(request.headers, 'pragma') ?? ''))
    return 'It was told to pass its copies by (Pragma: no-cache).';
  return validator === undefined
    ? 'It had no copy that it could use.'
    : `It had a copy, and asked by ${validator}: that was not good any more.`;
}

function tellNetwork(
  exchange: Exchange,
  source: Source,
  policy: Pick<CachePolicy, 'shared' | 'sharedBecause'> | undefined,
): Stop[] {
  const response = findResponse(exchange);
  if (source === 'none' || response === undefined) {
    const says = 'No answer came.';
    return [
      { station: 'on-the-way', did: 'unknown', says },
      { station: 'origin', did: 'unknown', says },
    ];
  }
  const because = policy?.sharedBecause === undefined ? '' : ` (${policy.sharedBecause})`;
  if (policy?.shared === 'hit') {
    return [
      { station: 'on-the-way', did: 'answered', says: `One of them had a copy${because}.` },
      {
        station: 'origin',
        did: 'not-asked',
        says: 'It was not asked for this answer, or only whether the copy is good.',
      },
    ];
  }
  const via = findHeader(response.headers, 'via');
  const known = policy?.shared === 'miss';
  const onTheWay = known
    ? `None of them had a copy${because}.`
    : via === undefined
      ? 'No header tells of one.'
      : `There is one (Via: ${via}), which does not say whether it had a copy.`;
  return [
    { station: 'on-the-way', did: known ? 'passed' : 'unknown', says: onTheWay },
    {
      station: 'origin',
      did: 'answered',
      says: `${source === 'revalidated' ? 'It said that the copy is good' : `It answered ${response.status}`}${known ? '' : ', or a cache on the way did that does not say so'}.`,
    },
  ];
}
