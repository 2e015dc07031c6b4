import type { ExchangeRow } from '#core/analysis';
import { type PlottedLeg, tellLegs } from '#core/brief';
import { formatMs } from '#core/wording';

interface RouteListProps {
  readonly legs: readonly PlottedLeg[];
  readonly rowOf: (index: number) => ExchangeRow | undefined;
  readonly onLeg: (leg: PlottedLeg) => void;
}

/** The legs one by one; each exchange opens its strip. Shorter browser work than this is not listed by itself. */
const LISTED_MS = 5;

export function RouteList({ legs, rowOf, onLeg }: RouteListProps) {
  let number = 0;
  return (
    <ol aria-label="Legs of the route" className="text-[13px]">
      {tellLegs(legs, rowOf).map(({ leg, name, words }) => {
        if (leg.type === 'browser') {
          return leg.endMs - leg.startMs < LISTED_MS ? null : (
            <li key={leg.startMs} className="grid grid-cols-[24px_1fr_80px] border-grid border-b py-1 text-soft">
              <span aria-hidden="true">·</span>
              <span>{words}</span>
              <span className="text-right font-mono text-ink">{formatMs(leg.endMs - leg.startMs)}</span>
            </li>
          );
        }
        number++;
        return (
          <li key={leg.startMs} className="grid grid-cols-[24px_1fr_80px] border-grid border-b py-1">
            <b className="font-mono font-semibold text-route">{number}</b>
            <span className="min-w-0">
              <button
                type="button"
                data-leg={leg.index}
                className="max-w-full truncate text-left font-semibold hover:text-route hover:underline"
                onClick={() => onLeg(leg)}
              >
                {name}
              </button>{' '}
              <span className="text-soft">{words}</span>
            </span>
            <span className="text-right font-mono">{formatMs(leg.endMs - leg.startMs)}</span>
          </li>
        );
      })}
    </ol>
  );
}
