import { memo, type ReactNode, useMemo } from 'react';
import { type Scale, type Tick, toPx } from '#core/chart';
import type { Milestone } from '#core/model';
import { cumulateBytes, idleMs, profileInFlight } from '#core/timing';
import { formatBytes, formatMs } from '#core/wording';
import type { TimeWindow } from '../state/address';
import { Term } from '../ui/Term';
import { useBehind } from '../ui/use-behind';
import { type Placed, spanOf } from './arrange';
import { Brush } from './Brush';
import { byteLine, type Flag, PROFILE_LEVELS, placeFlags, profileOutline } from './geometry';
import { KEY_PX } from './Strip';

export const BAND_PX = 88;
export const AXIS_PX = 22;
/** The profile's top and ground; below it lies the place of the route's line. */
const PROFILE_TOP_PX = 20;
const GROUND_PX = 74;

interface ProfileBandProps {
  readonly placed: readonly Placed[];
  readonly milestones: readonly Milestone[];
  /** The whole load over the width of the band. */
  readonly whole: Scale;
  readonly window: TimeWindow | undefined;
  /** The ticks of what the strips show. */
  readonly ticks: readonly Tick[];
  /** Where the route leads, to be chosen. */
  readonly route: ReactNode;
  readonly onWindow: (window: TimeWindow | undefined) => void;
}

/** Room that a tick's label takes. */
const TICK_LABEL_PX = 40;

/**
 * The in-flight profile over the whole load: milestones as flags, bytes as a second reading, the brush; the axis below.
 * It stays as it is while strips scroll. Long because it is one drawing, whose parts share one scale.
 */
export const ProfileBand = memo(function ProfileBand(props: ProfileBandProps) {
  const { milestones, whole, window, ticks, route, onWindow } = props;
  const placed = useBehind(props.placed);
  const isCounted = placed.length > 0 || props.placed.length === 0;
  const spans = useMemo(() => placed.flatMap(spanOf), [placed]);
  const profile = useMemo(() => profileInFlight(spans), [spans]);
  const bytes = useMemo(() => cumulateBytes(spans), [spans]);
  const flags = useMemo(() => placeFlags(milestones, whole), [milestones, whole]);
  const until = milestones.find(({ id }) => id === 'loaded')?.atMs ?? profile.steps.at(-1)?.atMs ?? 0;
  const fromMs = Math.min(0, whole.fromMs);
  const idle = useMemo(() => formatMs(idleMs(profile, fromMs, until)), [profile, fromMs, until]);
  const received = useMemo(() => byteLine(bytes, whole, GROUND_PX - PROFILE_TOP_PX), [bytes, whole]);
  const most = isCounted ? `peak ${profile.max}, idle ${idle}` : 'counting';
  const total = bytes.at(-1)?.bytes;
  return (
    <>
      <div className="shrink-0 px-4 py-2.5" style={{ width: KEY_PX }}>
        <div className="flex items-baseline justify-between">
          <h2 className="font-bold">
            <Term name="in flight">In flight</Term>
          </h2>
          {window === undefined ? null : (
            <button
              type="button"
              title="Zoom out to the whole load (0)"
              className="text-[13px] underline"
              onClick={() => onWindow(undefined)}
            >
              whole load
            </button>
          )}
        </div>
        <p className="text-[13px] text-soft">{most}</p>
        {total === undefined ? null : (
          <p className="flex items-center gap-2 text-[13px] text-soft">
            <svg width="18" height="6" aria-hidden="true" className="stroke-ink">
              <path d="M0 5h5L12 1h6" strokeDasharray="3 2" className="fill-none" />
            </svg>
            bytes received, {formatBytes(Math.round(total))} in all
          </p>
        )}
        {route === null ? null : (
          <div className="flex gap-1 text-[13px] text-route">
            <Term>route</Term> to {route}
          </div>
        )}
      </div>
      <div className="relative shrink-0" style={{ width: whole.widthPx }}>
        <svg
          width={whole.widthPx}
          height={BAND_PX + AXIS_PX}
          role="img"
          aria-label={`In-flight profile: ${most}`}
          className="block overflow-visible"
        >
          <Profile profile={profile} scale={whole} />
          <polyline
            points={received}
            transform={`translate(0 ${PROFILE_TOP_PX})`}
            strokeDasharray="3 2"
            className="fill-none stroke-ink"
          />
          <line x1={0} x2={whole.widthPx} y1={BAND_PX} y2={BAND_PX} className="stroke-line" />
          <Funnel window={window} whole={whole} />
          {ticks.map((tick) => (
            <text
              key={tick.atMs}
              // At the right edge a label would run into the measure's: it stands before its tick there.
              x={tick.px + (tick.px > whole.widthPx - TICK_LABEL_PX ? -4 : 4)}
              textAnchor={tick.px > whole.widthPx - TICK_LABEL_PX ? 'end' : 'start'}
              y={BAND_PX + 15}
              className="fill-soft stroke-4 stroke-sheet text-[11px] [paint-order:stroke]"
            >
              {tick.label}
            </text>
          ))}
          {flags.map((flag) => (
            <FlagMark key={`${flag.label} ${flag.px}`} flag={flag} />
          ))}
        </svg>
        <Brush whole={whole} window={window} heightPx={BAND_PX} onWindow={onWindow} />
      </div>
    </>
  );
});

interface ProfileProps {
  readonly profile: ReturnType<typeof profileInFlight>;
  readonly scale: Scale;
}

/** Three levels on one another: downloads darkest on the ground, then what waits, then what sets up. */
function Profile({ profile, scale }: ProfileProps) {
  const outlines = useMemo(() => {
    const of = (level: (typeof PROFILE_LEVELS)[keyof typeof PROFILE_LEVELS]): string =>
      profileOutline(profile.steps, level, profile.max, scale, GROUND_PX - PROFILE_TOP_PX);
    return {
      settingUp: of(PROFILE_LEVELS.settingUp),
      waiting: of(PROFILE_LEVELS.waiting),
      downloading: of(PROFILE_LEVELS.downloading),
    };
  }, [profile, scale]);
  return (
    <g transform={`translate(0 ${PROFILE_TOP_PX})`}>
      <polygon points={outlines.settingUp} className="fill-net/15 stroke-net" />
      <polygon points={outlines.waiting} className="fill-net/25" />
      <polygon points={outlines.downloading} className="fill-net/60" />
    </g>
  );
}

/** Two lines that lead from the brush to the width of the strips: what is chosen above is what is shown below. */
function Funnel({ window, whole }: { readonly window: TimeWindow | undefined; readonly whole: Scale }) {
  if (window === undefined) return null;
  const [from, to] = [toPx(whole, window.fromMs), toPx(whole, window.toMs)];
  const bottom = BAND_PX + AXIS_PX;
  return (
    <path
      d={`M${from} ${BAND_PX}L0 ${bottom}M${to} ${BAND_PX}L${whole.widthPx} ${bottom}`}
      className="fill-none stroke-soft"
    />
  );
}

const FLAG_PX = 16;

function FlagMark({ flag }: { readonly flag: Flag }) {
  const width = flag.label.length * 6.6 + 14;
  const x = flag.toLeft ? flag.px - width : flag.px;
  const y = 2 + flag.level * (FLAG_PX + 2);
  // A swallow-tailed flag; the tail is on the side away from its pole.
  const shape = flag.toLeft
    ? `${width},0 0,0 5,${FLAG_PX / 2} 0,${FLAG_PX} ${width},${FLAG_PX}`
    : `0,0 ${width},0 ${width - 5},${FLAG_PX / 2} ${width},${FLAG_PX} 0,${FLAG_PX}`;
  return (
    <g>
      <line x1={flag.px} x2={flag.px} y1={y} y2={BAND_PX} strokeDasharray="2 3" className="stroke-ink" />
      <g transform={`translate(${x} ${y})`}>
        <polygon points={shape} className="fill-ink" />
        <text x={flag.toLeft ? 8 : 5} y={12} className="fill-paper font-bold text-[11px]">
          {flag.label}
        </text>
      </g>
    </g>
  );
}

interface ChartGroundProps {
  readonly milestones: readonly Milestone[];
  readonly scale: Scale;
  readonly ticks: readonly Tick[];
  readonly heightPx: number;
}

/** The milestones' lines and the axis' grid behind the strips; it stays where it is while they scroll. */
export const ChartGround = memo(function ChartGround({ milestones, scale, ticks, heightPx }: ChartGroundProps) {
  const inside = milestones.filter(({ atMs }) => atMs >= scale.fromMs && atMs <= scale.toMs);
  return (
    <svg width={scale.widthPx} height={heightPx} aria-hidden="true" className="block">
      {ticks.map((tick) => (
        <line key={tick.atMs} x1={tick.px} x2={tick.px} y1={0} y2={heightPx} className="stroke-grid" />
      ))}
      {inside.map(({ label, atMs }) => (
        <line
          key={label}
          x1={toPx(scale, atMs)}
          x2={toPx(scale, atMs)}
          y1={0}
          y2={heightPx}
          strokeDasharray="2 3"
          className="stroke-ink"
        />
      ))}
    </svg>
  );
});
