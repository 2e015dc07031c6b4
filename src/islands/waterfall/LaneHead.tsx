import { memo, useMemo } from 'react';
import { type Connection, nameExchange, nameHost, tally } from '#core/analysis';
import { profileInFlight } from '#core/timing';
import { formatBytes, formatPlural } from '#core/wording';
import { FieldTerms } from '../filter/FilterValue';
import { FoldMark } from '../ui/FoldMark';
import { spanOf } from './arrange';
import { PROFILE_LEVELS, profileOutline } from './geometry';
import { LANES } from './lanes';
import type { ChartRow } from './layout';
import { exactly, MEASURES, sumUp } from './measures';
import { KEY_PX, MeasureCell, type RowFrame } from './Strip';
import { STRIP_PX } from './strip-marks';

interface LaneHeadProps extends RowFrame {
  readonly lane: Extract<ChartRow, { type: 'lane' }>;
  readonly topPx: number;
  readonly connections: ReadonlyMap<string, Connection>;
  readonly isCurrent: boolean;
  readonly place: number;
  readonly count: number;
  readonly onTurn: (key: string) => void;
}

/**
 * The head of a lane: what its exchanges share, their sums, and, folded, their own in-flight profile.
 * Long because it is one drawing, whose parts share one scale.
 */
const LaneHead = memo(function LaneHead(props: LaneHeadProps) {
  const { lane, scale, topPx, measure, mostMeasure, connections, isCurrent, place, count, onTurn } = props;
  const { members, value, by, isFolded, level } = lane;
  const sums = useMemo(() => tally(members.map(({ row }) => row)), [members]);
  const profile = useMemo(() => profileInFlight(members.flatMap(spanOf)), [members]);
  const sum = sumUp(
    members.map(({ row }) => row),
    measure,
  );
  const connection = by === 'connection' ? connections.get(value ?? '') : undefined;
  const said =
    value === undefined
      ? `${by === 'endpoint' ? by : LANES[by].label} unknown`
      : connection === undefined
        ? value
        : `${hostsOf(connection)}, connection ${value}`;
  const failed = sums.failed === 0 ? '' : `, ${sums.failed} failed`;
  const counted = `${formatPlural(sums.exchanges, by === 'endpoint' ? 'call' : 'exchange')}, ${formatBytes(sums.wireBytes)}${failed}${connection === undefined ? '' : `; ${openerOf(connection)}`}`;
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the tree itself has the keys, for the item that is current.
    <div
      id={`row-${lane.key}`}
      role="treeitem"
      tabIndex={-1}
      aria-level={level}
      aria-expanded={!isFolded}
      aria-selected={isCurrent}
      aria-posinset={place + 1}
      aria-setsize={count}
      aria-label={`${said}: ${counted}`}
      data-lane={lane.key}
      onClick={() => onTurn(lane.key)}
      style={{ transform: `translateY(${topPx}px)`, height: STRIP_PX }}
      className={`group/lane absolute inset-x-0 top-0 flex contain-strict cursor-pointer items-center border-line border-b ${isCurrent ? 'current' : 'bg-sheet'}`}
    >
      <div
        className="flex shrink-0 items-center gap-2 pr-2"
        style={{ width: KEY_PX, paddingLeft: 16 + (level - 1) * 14 }}
      >
        <FoldMark isFolded={isFolded} />
        <span className="min-w-0 flex-1 leading-none">
          <span className="block truncate font-bold text-[13px] leading-[14px]" title={said}>
            {said}
          </span>
          <span
            title={counted}
            className={`block truncate text-[10px] leading-[10px] ${sums.failed === 0 ? 'text-soft' : 'text-failed'}`}
          >
            {counted}
          </span>
        </span>
        {/* Not reachable by Tab: a tree has one stop. The same is done by the keys + and - on the lane. */}
        <span aria-hidden="true" className="hidden gap-1 group-hover/lane:flex">
          <FieldTerms field={by} value={value} />
        </span>
      </div>
      <svg width={scale.widthPx} height={STRIP_PX} aria-hidden="true" className="shrink-0 overflow-hidden">
        {isFolded ? (
          <>
            <polygon
              points={profileOutline(profile.steps, PROFILE_LEVELS.settingUp, profile.max, scale, STRIP_PX - 6)}
              transform="translate(0 3)"
              className="fill-net/20 stroke-net"
            />
            <polygon
              points={profileOutline(profile.steps, PROFILE_LEVELS.downloading, profile.max, scale, STRIP_PX - 6)}
              transform="translate(0 3)"
              className="fill-net/60"
            />
          </>
        ) : null}
      </svg>
      <MeasureCell
        value={sum}
        most={isFolded ? mostMeasure : Number.POSITIVE_INFINITY}
        text={MEASURES[measure].format(sum)}
        exact={`sum of ${exactly(measure, sum)}`}
      />
    </div>
  );
});

export default LaneHead;

function hostsOf({ hosts }: Connection): string {
  const [first = '', ...others] = hosts;
  return others.length === 0 ? nameHost(first) : `${nameHost(first)} and ${others.length} more`;
}

/** Whose request a connection was set up for. What stood before has no set-up, and nor has what its recorder left out. */
const openerOf = ({ openedBy }: Connection): string =>
  openedBy === undefined ? 'no set-up recorded' : `opened by #${openedBy.index} ${nameExchange(openedBy)}`;
