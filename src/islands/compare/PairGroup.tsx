import { memo, useMemo } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { nameCause, tellCause } from '#core/compare';
import { profileInFlight } from '#core/timing';
import { FoldMark } from '../ui/FoldMark';
import { PROFILE_LEVELS, profileOutline, type Scale } from '../waterfall/geometry';
import { PAIR_KEY_PX, PAIR_PX, PAIR_WORDS_PX, type RowFrame } from './PairRow';
import type { ListedRow } from './pairs';
import { signedMs, toneOf } from './signed';
import type { ShownSides } from './use-compared';

const PROFILE_PX = 17;

interface PairGroupProps extends RowFrame {
  readonly group: Extract<ListedRow, { readonly type: 'group' }>;
  readonly sides: ShownSides;
  readonly onTurn: (key: string) => void;
}

/** The pairs of an endpoint as one row: how many of them were in flight in either load, and what they did together. */
export const PairGroup = memo(function PairGroup(props: PairGroupProps) {
  const { group, sides, scale, topPx, place, count, isCurrent, onTurn } = props;
  const { key, cause, members, isFolded } = group;
  const name = nameCause(cause, sides.a.rowOf, sides.b.rowOf);
  const words = tellCause(cause, sides.a.rowOf, sides.b.rowOf);
  const [first] = members;
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the list itself has the keys, for the row that is current.
    <div
      id={`pair-${key}`}
      role="treeitem"
      tabIndex={-1}
      aria-level={1}
      aria-selected={isCurrent}
      aria-expanded={!isFolded}
      aria-posinset={place + 1}
      aria-setsize={count}
      aria-label={`${name}: ${signedMs(cause.ms)}, ${words}`}
      data-pair-group={cause.endpoint}
      onClick={() => onTurn(key)}
      style={{ transform: `translateY(${topPx}px)`, height: PAIR_PX }}
      className={`absolute inset-x-0 top-0 flex cursor-pointer items-center border-grid border-b contain-strict ${isCurrent ? 'current' : 'hover:bg-sheet/60'}`}
    >
      <div className="flex shrink-0 items-center gap-2.5 pl-4" style={{ width: PAIR_KEY_PX }}>
        <span className="flex size-[18px] shrink-0 items-center justify-center">
          <FoldMark isFolded={isFolded} />
        </span>
        <span className="min-w-0 flex-1 pr-3 leading-tight">
          <span className="block truncate font-semibold text-[13px]" title={cause.endpoint}>
            {name}
          </span>
          <span className="block truncate text-[11px] text-soft">{(first?.a ?? first?.b)?.host}</span>
        </span>
      </div>
      <svg width={scale.widthPx} height={PAIR_PX} aria-hidden="true" className="shrink-0 overflow-hidden">
        <InFlight rows={members.flatMap(({ a }) => a ?? [])} scale={scale} topPx={3} tone="fill-soft/50 stroke-soft" />
        <InFlight
          rows={members.flatMap(({ b }) => b ?? [])}
          scale={scale}
          topPx={4 + PAIR_PX / 2}
          tone="fill-net/50 stroke-net"
        />
      </svg>
      <div className="min-w-0 shrink-0 pr-4 pl-2 text-right leading-tight" style={{ width: PAIR_WORDS_PX }}>
        <span className={`block truncate font-semibold text-[13px] ${toneOf(cause.ms)}`}>{signedMs(cause.ms)}</span>
        <span className="block truncate text-[11px] text-soft" title={words}>
          {words}
        </span>
      </div>
    </div>
  );
});

interface InFlightProps {
  readonly rows: readonly ExchangeRow[];
  readonly scale: Scale;
  readonly topPx: number;
  readonly tone: string;
}

function InFlight({ rows, scale, topPx, tone }: InFlightProps) {
  const points = useMemo(() => {
    const { steps, max } = profileInFlight(
      rows.flatMap(({ startMs, timeMs = 0, phases }) => (startMs === undefined ? [] : [{ startMs, timeMs, phases }])),
    );
    return profileOutline(steps, PROFILE_LEVELS.settingUp, max, scale, PROFILE_PX);
  }, [rows, scale]);
  const ground = topPx + PROFILE_PX;
  return points === '' ? (
    <line x1={0} x2={scale.widthPx} y1={ground} y2={ground} strokeDasharray="1 5" className="stroke-line" />
  ) : (
    <polygon points={points} transform={`translate(0 ${topPx})`} className={tone} />
  );
}
