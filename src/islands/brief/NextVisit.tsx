import { useCallback } from 'react';
import { DELAYS, type DelayName, type NextVisit as Next, type VisitForecast } from '#core/cache';
import { formatBytes, formatCount } from '#core/wording';
import { fetchForecast } from '../state/api';
import { CopyButton } from '../ui/CopyButton';
import { tableAsText } from '../ui/table-text';
import { useFetched } from '../ui/use-fetched';
import { showInWaterfall } from './show-in-waterfall';

const DELAY_WORD: Record<DelayName, string> = { minute: 'a minute', hour: 'an hour', day: 'a day', month: 'a month' };

const TITLE = 'Next visit, estimated from the response headers';
const HEAD = ['after', 'reused', 'revalidated', 'fetched', 'on the wire', 'saved'] as const;

interface NextVisitProps {
  readonly captureId: string;
  readonly page: string | undefined;
}

/** What the next visit would reuse, ask about and fetch, and what it would cost on the wire. */
export default function NextVisit({ captureId, page }: NextVisitProps) {
  const fetchIt = useCallback(() => fetchForecast(captureId, page), [captureId, page]);
  const [fetched] = useFetched(fetchIt);
  return (
    <section aria-label="Next visit" className="mt-6">
      {fetched.state === 'there' ? (
        <p className="float-right">
          <CopyButton
            label="Copy the next visit as text"
            text={() =>
              tableAsText({ title: TITLE, head: HEAD, rows: textRows(fetched.value), figures: [1, 2, 3, 4, 5] })
            }
          />
        </p>
      ) : null}
      <h2 className="mb-1 font-bold">{TITLE}</h2>
      {fetched.state === 'loading' ? <p className="text-soft">Calculating</p> : null}
      {fetched.state === 'failed' ? <p className="text-failed">{fetched.problem.sentence}</p> : null}
      {fetched.state === 'there' ? (
        <table className="w-full text-[13px]">
          <thead className="text-left text-soft">
            <tr>
              {HEAD.map((word) => (
                <th key={word} scope="col" className="font-normal">
                  {word}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {(Object.keys(DELAYS) as DelayName[]).map((delay) => {
              const { reused, revalidated, fetched: anew, wireBytes, sparedBytes } = fetched.value[delay];
              return (
                <tr key={delay} className="border-grid border-t" data-visit={delay}>
                  <th scope="row" className="text-left font-normal">
                    {DELAY_WORD[delay]}
                  </th>
                  <Count delay={delay} next="reused" count={reused} />
                  <Count delay={delay} next="revalidated" count={revalidated} />
                  <Count delay={delay} next="fetched" count={anew} />
                  <td className="font-mono">{formatBytes(wireBytes)}</td>
                  <td className="font-mono">{formatBytes(sparedBytes)}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      ) : null}
    </section>
  );
}

const textRows = (forecasts: Readonly<Record<DelayName, VisitForecast>>): string[][] =>
  (Object.keys(DELAYS) as DelayName[]).map((delay) => {
    const { reused, revalidated, fetched, wireBytes, sparedBytes } = forecasts[delay];
    return [
      DELAY_WORD[delay],
      ...[reused, revalidated, fetched].map(formatCount),
      ...[wireBytes, sparedBytes].map(formatBytes),
    ];
  });

interface CountProps {
  readonly delay: DelayName;
  readonly next: Next;
  readonly count: number;
}

/** How many, a press away from them. */
function Count({ delay, next, count }: CountProps) {
  return (
    <td className="font-mono">
      {count === 0 ? (
        '0'
      ) : (
        <button
          type="button"
          className="min-h-6 min-w-6 text-left underline"
          title="Show them in the waterfall"
          aria-label={`${formatCount(count)}: show them in the waterfall`}
          onClick={() => showInWaterfall(`forecast.${delay} = ${next}`)}
        >
          {formatCount(count)}
        </button>
      )}
    </td>
  );
}
