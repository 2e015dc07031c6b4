import { memo } from 'react';
import { classifyOutcome, nameExchange, nameHost } from '#core/analysis';
import { clip, type Scale, type Step, stairsOf, toPx } from '#core/chart';
import { PHASE_TONE } from '#core/wording';
import { MarkSign } from '../marks/MarkSign';
import { KIND_LETTER } from '../ui/kind';
import { OUTCOME_FILL, StatusMark, statusWord } from '../ui/status';
import type { Placed } from './arrange';
import { type EndMark, endMarkOf } from './geometry';
import { exactly, MEASURES, type MeasureId, measureOf } from './measures';

export const STRIP_PX = 26;
export const KEY_PX = 290;
export const MEASURE_PX = 96;
const STAIRS_PX = 20;

/** What every row of the chart is given alike. */
export interface RowFrame {
  readonly scale: Scale;
  /** End of the last exchange of all, in ms: what ends with it may have been open still. */
  readonly lastMs: number;
  readonly measure: MeasureId;
  /** The greatest value of the measure among the rows: the bar that fills its column. */
  readonly mostMeasure: number;
}

interface StripProps extends RowFrame {
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

/** One exchange's row: its key, its stairs, its measure. */
export const Strip = memo(function Strip(props: StripProps) {
  const { placed, level, scale, lastMs, topPx, measure, mostMeasure, isCurrent, place, count, isOnRoute, onPick } =
    props;
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
      <Stairs placed={placed} scale={scale} lastMs={lastMs} />
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

/** Anything shorter is still drawn this wide, so that it can be seen at every zoom. */
const LEAST_PX = 1.5;

interface StairsProps {
  readonly placed: Placed;
  readonly scale: Scale;
  readonly lastMs: number;
}

export function Stairs({ placed, scale, lastMs }: StairsProps) {
  const { row, startMs, endMs } = placed;
  if (startMs === undefined) {
    return (
      <span className="shrink-0 text-[11px] text-soft" style={{ width: scale.widthPx }}>
        start unknown
      </span>
    );
  }
  const outcome = classifyOutcome(row);
  const fromPx = toPx(scale, startMs);
  const toEndPx = toPx(scale, endMs ?? startMs);
  const isBefore = toEndPx < 0;
  const isAfter = fromPx > scale.widthPx;
  return (
    <svg
      width={scale.widthPx}
      height={STRIP_PX}
      aria-hidden="true"
      className={`shrink-0 overflow-hidden ${OUTCOME_FILL[outcome]}`}
    >
      {isBefore || isAfter ? (
        <Elsewhere isBefore={isBefore} widthPx={scale.widthPx} />
      ) : (
        <>
          <Steps steps={stairsOf(row, startMs, scale)} fromPx={fromPx} />
          {outcome === 'cached' ? <SparedMark fromPx={fromPx} /> : null}
          <EndMarkShape mark={endMarkOf(row, endMs, lastMs)} atPx={clip(Math.max(toEndPx, fromPx + LEAST_PX), scale)} />
        </>
      )}
    </svg>
  );
}

export function Steps({ steps, fromPx }: { readonly steps: readonly Step[]; readonly fromPx: number }) {
  if (steps.length === 0) return <NoLength fromPx={fromPx} />;
  return steps.map((step) => (
    <rect
      key={step.phase}
      x={step.fromPx}
      y={3 + STAIRS_PX * (1 - step.height)}
      width={Math.max(LEAST_PX, step.widthPx)}
      height={STAIRS_PX * step.height}
      strokeWidth={step.widthPx < 3 ? 0 : 1}
      strokeDasharray={step.phase === 'unknown' ? '3 2' : undefined}
      fillOpacity={step.widthPx < 3 ? 1 : PHASE_TONE[step.phase]}
    />
  ));
}

/** An exchange whose length nobody recorded: a stroke where it started, and dots for what is not known. */
function NoLength({ fromPx }: { readonly fromPx: number }) {
  return <path d={`M${fromPx} 3v20M${fromPx + 4} 13h14`} strokeDasharray="2 3" className="fill-none stroke-2" />;
}

/** What cache or the like spared: a ring before its stairs. */
export function SparedMark({ fromPx }: { readonly fromPx: number }) {
  return <circle cx={fromPx - 7} cy={17} r={3.5} className="fill-none" strokeWidth={1.5} />;
}

/** How it ended, where that is not plain: a cross, a torn edge, a step down to where it led, an arrow on and on. */
const END_SHAPE: Record<EndMark, string> = {
  failed: 'm4 9l7 7m0 -7l-7 7',
  torn: 'm2 3l4 4l-4 4l4 4l-4 4',
  hop: 'm3 13h6v5m-3 -3l3 3l3 -3',
  open: 'm3 12h9m-4 -4l4 4l-4 4',
};

export function EndMarkShape({ mark, atPx }: { readonly mark: EndMark | undefined; readonly atPx: number }) {
  return mark === undefined ? null : (
    <path d={`M${atPx} 2${END_SHAPE[mark]}`} className="fill-none" strokeWidth={1.5} />
  );
}

/** Where a strip lies that the window does not show: a small arrow at that edge. */
function Elsewhere({ isBefore, widthPx }: { readonly isBefore: boolean; readonly widthPx: number }) {
  const shape = isBefore ? 'M9 9l-5 5l5 5' : `M${widthPx - 9} 9l5 5l-5 5`;
  return <path d={shape} className="fill-none" strokeWidth={1.5} />;
}
