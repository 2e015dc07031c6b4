import { memo } from 'react';
import { classifyOutcome, nameExchange } from '#core/analysis';
import { formatMs } from '#core/wording';
import { KIND_LETTER } from '../ui/kind';
import { OUTCOME_FILL, StatusMark, statusWord } from '../ui/status';
import type { Placed } from './arrange';
import { type Scale, type Step, stairsOf, toPx } from './geometry';

export const STRIP_PX = 26;
const STAIRS_PX = 20;

interface StripProps {
  readonly placed: Placed;
  readonly scale: Scale;
  readonly topPx: number;
  readonly keyPx: number;
  readonly measurePx: number;
  readonly isCurrent: boolean;
  readonly place: number;
  readonly count: number;
  readonly onPick: (index: number) => void;
}

/** One exchange's row: its key, its stairs, its measure. */
export const Strip = memo(function Strip(props: StripProps) {
  const { placed, scale, topPx, keyPx, measurePx, isCurrent, place, count, onPick } = props;
  const { row } = placed;
  const name = nameExchange(row);
  const word = statusWord(row);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the list itself has the keys, for the option that is current.
    <div
      id={`strip-${row.index}`}
      role="option"
      tabIndex={-1}
      aria-selected={isCurrent}
      aria-posinset={place + 1}
      aria-setsize={count}
      aria-label={`#${row.index} ${row.kind} ${row.method} ${name}, ${row.host}, ${word ?? row.status}, ${formatMs(row.timeMs)}`}
      data-strip={row.index}
      onClick={() => onPick(row.index)}
      style={{ top: topPx, height: STRIP_PX }}
      className={`absolute inset-x-0 flex cursor-pointer items-center border-grid border-b ${isCurrent ? 'bg-route-wash' : 'hover:bg-sheet/60'}`}
    >
      <div className="flex shrink-0 items-center gap-2 pl-3" style={{ width: keyPx }}>
        <span className="w-7 text-right text-[11px] text-soft">{row.index}</span>
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
          <span className="block truncate text-[10px] text-soft leading-[10px]">{row.host}</span>
        </span>
        <span className="pr-2">{word === undefined ? null : <StatusMark row={row} word={word} />}</span>
      </div>
      <Stairs placed={placed} scale={scale} />
      <span className="pr-4 text-right font-semibold text-[13px]" style={{ width: measurePx }}>
        {formatMs(row.timeMs)}
      </span>
    </div>
  );
});

/** Tones repeat what the heights say: the taller, the fuller. */
const STEP_TONE: Record<Step['phase'], number> = {
  heldMs: 0.06,
  lookupMs: 0.22,
  connectMs: 0.22,
  secureMs: 0.22,
  sendMs: 0.42,
  waitMs: 0.42,
  downloadMs: 1,
  unknown: 0,
};
/** Anything shorter is still drawn this wide, so that it can be seen at every zoom. */
const LEAST_PX = 1.5;

function Stairs({ placed, scale }: { readonly placed: Placed; readonly scale: Scale }) {
  const { row, startMs } = placed;
  if (startMs === undefined) {
    return (
      <span className="text-[11px] text-soft" style={{ width: scale.widthPx }}>
        start unknown
      </span>
    );
  }
  const steps = stairsOf(row, startMs, scale);
  const fromPx = toPx(scale, startMs);
  const outcome = OUTCOME_FILL[classifyOutcome(row)];
  return (
    <svg width={scale.widthPx} height={STRIP_PX} aria-hidden="true" className={`shrink-0 ${outcome}`}>
      {steps.length === 0 ? <Nothing fromPx={fromPx} /> : null}
      {steps.map((step) => (
        <rect
          key={step.phase}
          x={step.fromPx}
          y={3 + STAIRS_PX * (1 - step.height)}
          width={Math.max(LEAST_PX, step.widthPx)}
          height={STAIRS_PX * step.height}
          strokeWidth={step.widthPx < 3 ? 0 : 1}
          strokeDasharray={step.phase === 'unknown' ? '3 2' : undefined}
          fillOpacity={step.widthPx < 3 ? 1 : STEP_TONE[step.phase]}
        />
      ))}
    </svg>
  );
}

/** An exchange whose length nobody recorded: a cross where it started. */
function Nothing({ fromPx }: { readonly fromPx: number }) {
  const y = STRIP_PX / 2;
  return <path d={`M${fromPx - 4} ${y - 4}l8 8m0 -8l-8 8`} className="fill-none stroke-2" />;
}
