import { useMemo } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { nameExchange } from '#core/analysis';
import type { PlottedLeg } from '#core/brief';
import { formatMs } from '#core/wording';
import { BOX_PX, plotOf } from './plot';

interface RoutePlotProps {
  readonly legs: readonly PlottedLeg[];
  readonly rowOf: (index: number) => ExchangeRow | undefined;
  readonly widthPx: number;
  readonly onLeg: (leg: PlottedLeg) => void;
}

const LABEL_PX = 7;

/** The route as one line: exchanges stand on it as steps, gaps run along it dotted. */
export function RoutePlot({ legs, rowOf, widthPx, onLeg }: RoutePlotProps) {
  const { boxes, line, heightPx } = useMemo(() => plotOf(legs, widthPx), [legs, widthPx]);
  return (
    <svg
      width={widthPx}
      height={heightPx}
      viewBox={`0 0 ${widthPx} ${heightPx}`}
      role="img"
      aria-label={`The route in ${legs.length} legs, listed below`}
      className="block max-w-full"
    >
      {boxes.map(({ leg, x, y, widthPx: width }) => {
        const row = leg.type === 'exchange' ? rowOf(leg.index) : undefined;
        const name = row === undefined ? 'no request of the route in flight' : nameExchange(row);
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: the list below has a button for each leg.
          <g key={leg.startMs} onClick={() => onLeg(leg)} className={leg.type === 'exchange' ? 'cursor-pointer' : ''}>
            <title>{`${name}, ${formatMs(leg.endMs - leg.startMs)}`}</title>
            {leg.type === 'exchange' ? (
              <rect x={x} y={y} width={width} height={BOX_PX} className="fill-net" />
            ) : (
              <line
                x1={x}
                x2={x + width}
                y1={y + BOX_PX - 4}
                y2={y + BOX_PX - 4}
                strokeDasharray="1 3"
                className="stroke-2 stroke-soft"
              />
            )}
            {leg.type === 'exchange' && width > name.length * LABEL_PX ? (
              <text
                x={x + width / 2}
                y={y + BOX_PX - 3.5}
                textAnchor="middle"
                className="fill-on-mark font-semibold text-[10px]"
              >
                {name}
              </text>
            ) : null}
          </g>
        );
      })}
      <path d={line} className="fill-none stroke-2 stroke-route" />
    </svg>
  );
}
