import { memo } from 'react';
import { nameExchange, nameHost } from '#core/analysis';
import type { Scale } from '#core/chart';
import { MarkSign } from '../marks/MarkSign';
import { KIND_LETTER } from '../ui/kind';
import { OUTCOME_FILL, StatusMark, statusWord } from '../ui/status';
import type { Placed } from './arrange';
import { Marks } from './Marks';
import { exactly, MEASURES, type MeasureId, measureOf } from './measures';
import { marksOf, STRIP_PX } from './strip-marks';

export const KEY_PX = 290;
export const MEASURE_PX = 96;

/** What every row of the chart is given alike. */
export interface RowFrame {
  readonly scale: Scale;
  /** End of the last exchange of all, in ms: what ends with it may have been open still. */
  readonly lastMs: number;
  readonly measure: MeasureId;
  /** The greatest value of the measure among the rows: the bar that fills its column. */
  readonly mostMeasure: number;
}

interface StripProps extends Omit<RowFrame, 'scale' | 'lastMs'> {
  /** Of the chart: the stairs are drawn in blocks over all strips, which zooming leaves as they are. */
  readonly widthPx: number;
  readonly placed: Placed;
  readonly level: 1 | 2 | 3;
  readonly topPx: number;
  readonly isCurrent: boolean;
  readonly place: number;
  readonly count: number;
  /** It is a leg of the route that is drawn. */
  readonly isOnRoute: boolean;
  readonly onPick: (index: number) => void;
}

/** One exchange's row: its key, the room for its stairs, its measure. */
export const Strip = memo(function Strip(props: StripProps) {
  const { placed, level, widthPx, topPx, measure, mostMeasure, isCurrent, place, count, isOnRoute, onPick } = props;
  const { row } = placed;
  const name = nameExchange(row);
  const word = statusWord(row);
  const value = measureOf(row, measure);
  const { label, format } = MEASURES[measure];
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the tree itself has the keys, for the item that is current.
    <div
      id={`row-${row.index}`}
      role="treeitem"
      tabIndex={-1}
      aria-level={level}
      aria-selected={isCurrent}
      aria-posinset={place + 1}
      aria-setsize={count}
      aria-label={`#${row.index} ${row.kind} ${row.method} ${name}, ${nameHost(row.host)}, ${word ?? row.status}, ${label} ${format(value)}`}
      data-strip={row.index}
      data-off-route={isOnRoute ? undefined : ''}
      onClick={() => onPick(row.index)}
      style={{ transform: `translateY(${topPx}px)`, height: STRIP_PX }}
      className={`absolute inset-x-0 top-0 flex contain-strict cursor-pointer items-center border-grid border-b ${isCurrent ? 'current' : 'hover:bg-sheet/60'}`}
    >
      <div className="flex shrink-0 items-center gap-2" style={{ width: KEY_PX, paddingLeft: 12 + (level - 1) * 14 }}>
        <span className="w-7 shrink-0 text-right text-[11px] text-soft">{row.index}</span>
        <span
          title={row.kind}
          className="flex size-[17px] shrink-0 items-center justify-center border border-soft font-bold text-[10px] text-soft"
        >
          {KIND_LETTER[row.kind]}
        </span>
        <span className="min-w-0 flex-1 leading-none">
          <span className="block truncate font-semibold text-[13px] leading-[14px]" title={row.url}>
            {name}
          </span>
          <span className="block truncate text-[10px] text-soft leading-[10px]" title={nameHost(row.host)}>
            {nameHost(row.host)}
          </span>
        </span>
        <MarkSign index={row.index} />
        <span className="pr-2">{word === undefined ? null : <StatusMark row={row} word={word} />}</span>
      </div>
      {placed.startMs === undefined ? (
        <NoStart widthPx={widthPx} />
      ) : (
        <span className="shrink-0" style={{ width: widthPx }} />
      )}
      <MeasureCell value={value} most={mostMeasure} text={format(value)} exact={exactly(measure, value)} />
    </div>
  );
});

interface MeasureCellProps {
  readonly value: number | undefined;
  readonly most: number;
  readonly text: string;
  readonly exact: string;
}

/** A number with its bar. */
export function MeasureCell({ value, most, text, exact }: MeasureCellProps) {
  const share = value === undefined || most <= 0 ? 0 : Math.min(1, value / most);
  return (
    <span className="relative h-full shrink-0 pr-4 text-right" style={{ width: MEASURE_PX }} title={exact}>
      <span className={`font-semibold text-[13px] leading-[21px] ${value === undefined ? 'text-soft' : ''}`}>
        {text}
      </span>
      <span
        className="absolute right-4 bottom-[3px] h-[2px] bg-soft"
        style={{ width: Math.max(value === undefined || value === 0 ? 0 : 1, share * (MEASURE_PX - 28)) }}
      />
    </span>
  );
}

interface StairsProps {
  readonly placed: Placed;
  readonly scale: Scale;
  readonly lastMs: number;
}

/** The stairs and marks of one exchange by itself. */
export function Stairs({ placed, scale, lastMs }: StairsProps) {
  if (placed.startMs === undefined) return <NoStart widthPx={scale.widthPx} />;
  const { outcome, marks } = marksOf(placed, scale, lastMs, 0);
  return (
    <svg
      width={scale.widthPx}
      height={STRIP_PX}
      aria-hidden="true"
      className={`shrink-0 overflow-hidden ${OUTCOME_FILL[outcome]}`}
    >
      <Marks marks={marks} />
    </svg>
  );
}

const NoStart = ({ widthPx }: { readonly widthPx: number }) => (
  <span className="shrink-0 text-[11px] text-soft" style={{ width: widthPx }}>
    start unknown
  </span>
);
