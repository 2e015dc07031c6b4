import type { ExchangeRow } from '#core/analysis';
import {
  DELAYS,
  type DelayName,
  type NextVisit,
  nextVisitOf,
  readPolicy,
  type Station,
  type Stop,
  tellJourney,
} from '#core/cache';
import type { Exchange } from '#core/model';

interface CacheSectionProps {
  readonly row: ExchangeRow;
  readonly exchange: Exchange;
}

const STATION_WORD: Record<Station, string> = {
  worker: 'service worker',
  browser: 'browser’s cache',
  'on-the-way': 'shared caches (CDN, proxy)',
  origin: 'origin',
};

/** How far a look-up came, told by the shape of the stop: full where the answer was, open where it went on. */
const STOP_SHAPE: Record<Stop['did'], string> = {
  answered: 'border-ink bg-ink',
  passed: 'border-ink bg-sheet',
  unknown: 'border-ink border-dashed bg-sheet',
  'not-asked': 'border-line bg-sheet',
};

const STOP_WORD: Record<Stop['did'], string> = {
  answered: 'responded',
  passed: 'passed on',
  unknown: 'unknown',
  'not-asked': 'not asked',
};

const VISIT_WORD: Record<NextVisit, string> = {
  reused: 'used without asking',
  revalidated: 'revalidated; no body if unchanged',
  fetched: 'downloaded again',
};

const DELAY_WORD: Record<DelayName, string> = { minute: 'a minute', hour: 'an hour', day: 'a day', month: 'a month' };

/** The look-up as a journey: where this visit's stopped and why, what the answer allows, and what the next visit does. */
export function CacheSection({ row, exchange }: CacheSectionProps) {
  const policy = readPolicy(exchange);
  return (
    <>
      <ol aria-label="Where the response was looked up" data-journey>
        {tellJourney(exchange, row.source, policy).map((stop) => (
          <JourneyStop key={stop.station} stop={stop} />
        ))}
      </ol>
      {policy === undefined ? null : (
        <>
          <h4 className="mt-2 font-semibold text-soft">Cacheability</h4>
          <ol className="text-[13px]" data-cache-steps>
            {policy.steps.map(({ says, because, section }) => (
              <li key={section + says} className="mb-0.5 border-line border-l-2 pl-2">
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

function JourneyStop({ stop: { station, did, says } }: { readonly stop: Stop }) {
  return (
    <li
      data-stop={did}
      className={`relative grid grid-cols-[130px_1fr] gap-x-3 border-line border-l pb-1.5 pl-3 last:border-transparent ${did === 'not-asked' ? 'text-soft' : ''}`}
    >
      <span aria-hidden="true" className={`absolute top-1 -left-[5px] size-[9px] border-[1.5px] ${STOP_SHAPE[did]}`} />
      <span className={did === 'answered' ? 'font-semibold' : ''}>{STATION_WORD[station]}</span>
      <span className="text-[13px]">
        <span className="sr-only">{STOP_WORD[did]}: </span>
        {says}
      </span>
    </li>
  );
}
