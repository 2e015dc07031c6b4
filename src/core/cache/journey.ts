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

const NOT_ASKED = 'Not asked.';

/** What gave the answer, of those before the network. */
const BEFORE_NETWORK: Partial<Record<Source, { readonly station: Station; readonly says: string }>> = {
  worker: { station: 'worker', says: 'The page’s service worker responded.' },
  memory: { station: 'browser', says: 'Had a copy in memory.' },
  disk: { station: 'browser', says: 'Had a copy on disk.' },
  cache: { station: 'browser', says: 'Had a copy, in memory or on disk.' },
  prefetched: { station: 'browser', says: 'Had fetched the response ahead.' },
  pushed: { station: 'browser', says: 'The server had pushed the response before the request.' },
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
        (station): Stop => ({ station, did: 'not-asked', says: 'Not asked by this exchange.' }),
      ),
    ];
  }
  const worker: Stop = { station: 'worker', did: 'passed', says: 'No service worker is recorded as having responded.' };
  if (early !== undefined) {
    return [
      worker,
      { station: 'browser', did: 'answered', says: early.says },
      { station: 'on-the-way', did: 'not-asked', says: NOT_ASKED },
      { station: 'origin', did: 'not-asked', says: NOT_ASKED },
    ];
  }
  if (source === 'unknown') {
    const says = 'Not recorded.';
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
    return `Had a stored copy and revalidated it${validator === undefined ? '' : ` (${validator})`}.`;
  }
  if (request.method !== 'GET' && request.method !== 'HEAD')
    return `Responses to ${request.method} are not looked up in caches.`;
  if (validator !== undefined)
    return `Had a stored copy and revalidated it (${validator}); the server sent a full response.`;
  const control = findHeader(request.headers, 'cache-control') ?? '';
  const told = /no-store|no-cache/i.exec(control)?.[0];
  if (told !== undefined) return `Bypassed (the request says ${told}).`;
  if (/no-cache/i.test(findHeader(request.headers, 'pragma') ?? ''))
    return 'Bypassed (the request says Pragma: no-cache).';
  const isFresh = /max-age=0\b/i.test(control) ? ', and says max-age=0, which lets none be used unasked' : '';
  return `No sign of a stored copy: the request was not conditional${isFresh}.`;
}

function tellNetwork(
  exchange: Exchange,
  source: Source,
  policy: Pick<CachePolicy, 'shared' | 'sharedBecause'> | undefined,
): Stop[] {
  const response = findResponse(exchange);
  if (source === 'none' || response === undefined) {
    const says = 'No response.';
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
        says: 'Not asked for this response, or only to revalidate the copy.',
      },
    ];
  }
  const via = findHeader(response.headers, 'via');
  const known = policy?.shared === 'miss';
  const onTheWay = known
    ? `None of them responded from a copy${because}.`
    : via === undefined
      ? 'No header tells of one.'
      : `There is one (Via: ${via}); it does not say whether it had a copy.`;
  return [
    { station: 'on-the-way', did: known ? 'passed' : 'unknown', says: onTheWay },
    {
      station: 'origin',
      did: 'answered',
      says: `${source === 'revalidated' ? 'Confirmed the stored copy (304)' : `Responded ${response.status}`}${known ? '' : ' (or an unidentified cache did)'}.`,
    },
  ];
}
