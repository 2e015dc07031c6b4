import type { ExchangeRow } from '#core/analysis';
import { DELAYS, type DelayName, type NextVisit, nextVisitOf, readPolicy } from '#core/cache';
import { type Exchange, findHeader, type Source } from '#core/model';

interface CacheSectionProps {
  readonly row: ExchangeRow;
  readonly exchange: Exchange;
}

/** Where the look-up stopped on this visit: the worker, the browser's cache, a cache on the way, the origin. */
const STOPPED: Record<Source, string> = {
  worker: 'The page’s service worker answered: nothing else was asked.',
  memory: 'The browser’s memory had it: the network was not asked.',
  disk: 'The browser’s disk cache had it: the network was not asked.',
  cache: 'The browser’s cache had it: the network was not asked.',
  prefetched: 'The browser had fetched it ahead.',
  pushed: 'The server had pushed it before it was asked for.',
  revalidated: 'The browser had a copy and asked whether it is still good; it was.',
  network: 'It went over the network.',
  none: 'No answer came.',
  unknown: 'Where the answer came from is unknown.',
};

const VISIT_WORD: Record<NextVisit, string> = {
  reused: 'used as it is, without asking',
  revalidated: 'asked about, and spared if unchanged',
  fetched: 'fetched again',
};

const DELAY_WORD: Record<DelayName, string> = { minute: 'a minute', hour: 'an hour', day: 'a day', month: 'a month' };

/** The look-up as a journey: where this visit's stopped and why, what the answer allows, and what the next visit does. */
export function CacheSection({ row, exchange }: CacheSectionProps) {
  const policy = readPolicy(exchange);
  return (
    <>
      <p>
        {STOPPED[row.source]} {askedWords(exchange)}
        {policy === undefined || policy.shared === 'unknown'
          ? ''
          : policy.shared === 'hit'
            ? ' A cache on the way had a copy.'
            : ' No cache on the way had a copy.'}
      </p>
      {policy === undefined ? null : (
        <>
          <ol className="mt-2 text-[13px]" data-cache-steps>
            {policy.steps.map(({ says, because, section }) => (
              <li key={says} className="mb-0.5 border-line border-l-2 pl-2">
                {says}{' '}
                <span className="text-soft">
                  {because} ({section})
                </span>
              </li>
            ))}
          </ol>
          <h4 className="mt-2 font-semibold text-soft">The next visit</h4>
          <dl className="grid grid-cols-[90px_1fr] text-[13px]">
            {(Object.keys(DELAYS) as DelayName[]).map((delay) => (
              <div key={delay} className="contents">
                <dt className="text-soft">after {DELAY_WORD[delay]}</dt>
                <dd>{VISIT_WORD[nextVisitOf(policy, DELAYS[delay])]}</dd>
              </div>
            ))}
          </dl>
        </>
      )}
    </>
  );
}

/** Whether the request itself wanted caches to be passed by. */
function askedWords({ request }: Exchange): string {
  const asked = findHeader(request.headers, 'cache-control') ?? '';
  return /no-cache|max-age=0/i.test(asked) || /no-cache/i.test(findHeader(request.headers, 'pragma') ?? '')
    ? 'The request did not want a kept copy: a reload, or the cache was turned off.'
    : '';
}
