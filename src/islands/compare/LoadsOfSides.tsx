import { formatMs } from '#core/wording';
import type { LoadHead } from '../../workers/compare.worker';
import { Behind } from '../ui/Behind';
import { LOAD_CHART_PX, LoadChart } from './later-chart';
import type { ShownSides } from './use-compared';

/** The loads of both sides, what each took, and which of them is drawn. */
export function LoadsOfSides({ shown }: { readonly shown: ShownSides }) {
  const { a, b, compared } = shown;
  const isSingle = a.heads.length + b.heads.length === 2;
  return (
    <div className="flex flex-wrap gap-x-10 gap-y-2">
      {[
        { side: 'A', heads: a.heads, summary: compared.a },
        { side: 'B', heads: b.heads, summary: compared.b },
      ].map(({ side, heads, summary }) => (
        <div key={side} className="min-w-64 flex-1">
          <p className="font-semibold">
            {side}
            {heads.length > 1 ? `, median ${formatMs(summary.medianMs)}` : ''}
          </p>
          {isSingle || heads.length < 2 ? null : (
            <Behind what="the chart" heightPx={LOAD_CHART_PX}>
              <LoadChart
                loads={heads.map((head, at) => ({ head, ms: summary.loadsMs[at], isMarked: at === summary.drawn }))}
                markWords="drawn"
              />
            </Behind>
          )}
          <ul>
            {heads.map((head, at) => (
              <li
                key={`${head.load.captureId} ${head.load.page}`}
                className="flex justify-between gap-4 border-grid border-t"
              >
                <LoadLink head={head} />
                <span className="whitespace-nowrap font-mono">
                  {at === summary.drawn && heads.length > 1 ? (
                    <span className="pr-3 font-sans text-soft">drawn</span>
                  ) : null}
                  {formatMs(summary.loadsMs[at])}
                </span>
              </li>
            ))}
          </ul>
        </div>
      ))}
    </div>
  );
}

export function LoadLink({ head }: { readonly head: LoadHead }) {
  return (
    <a href={`/c/${head.load.captureId}/brief`} className="min-w-0 truncate hover:underline" title={head.name}>
      {head.name}
    </a>
  );
}
