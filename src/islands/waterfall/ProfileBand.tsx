import { useMemo } from 'react';
import type { Milestone } from '#core/model';
import { idleMs, profileInFlight } from '#core/timing';
import { formatMs } from '#core/wording';
import type { Placed } from './arrange';
import { type Flag, placeFlags, profileOutline, type Scale, type Tick, toPx } from './geometry';

const BAND_PX = 88;
/** The profile's top and ground; below it lies the place of the route's line. */
const PROFILE_TOP_PX = 20;
const GROUND_PX = 74;

interface ProfileBandProps {
  readonly placed: readonly Placed[];
  readonly milestones: readonly Milestone[];
  readonly scale: Scale;
  readonly ticks: readonly Tick[];
  readonly keyPx: number;
  readonly measurePx: number;
}

/** The in-flight profile over the whole load, with the milestones as flags and the axis below. */
export function ProfileBand({ placed, milestones, scale, ticks, keyPx, measurePx }: ProfileBandProps) {
  const profile = useMemo(
    () =>
      profileInFlight(
        placed.flatMap(({ row, startMs }) =>
          startMs === undefined ? [] : { startMs, timeMs: row.timeMs ?? 0, phases: row.phases },
        ),
      ),
    [placed],
  );
  const flags = useMemo(() => placeFlags(milestones, scale), [milestones, scale]);
  const until = milestones.find(({ id }) => id === 'loaded')?.atMs ?? profile.steps.at(-1)?.atMs ?? 0;
  const idle = formatMs(idleMs(profile, Math.min(0, scale.fromMs), until));
  const most = `most at once ${profile.max}`;
  return (
    <div className="flex shrink-0 border-line border-b bg-sheet">
      <div className="shrink-0 px-4 py-3" style={{ width: keyPx }}>
        <h2 className="font-bold">In flight</h2>
        <p className="text-[13px] text-soft">
          {most}, idle {idle}
        </p>
      </div>
      <div className="relative" style={{ width: scale.widthPx }}>
        <svg
          width={scale.widthPx}
          height={BAND_PX + 22}
          role="img"
          aria-label={`In-flight profile: ${most}, idle ${idle}`}
        >
          {ticks.map((tick) => (
            <line key={tick.atMs} x1={tick.px} x2={tick.px} y1={0} y2={BAND_PX} className="stroke-grid" />
          ))}
          <polygon
            points={profileOutline(profile.steps, profile.max, scale, GROUND_PX - PROFILE_TOP_PX)}
            transform={`translate(0 ${PROFILE_TOP_PX})`}
            className="fill-net/20 stroke-net"
          />
          <line x1={0} x2={scale.widthPx} y1={BAND_PX} y2={BAND_PX} className="stroke-line" />
          {ticks.map((tick) => (
            <text key={tick.atMs} x={tick.px + 4} y={BAND_PX + 15} className="fill-soft text-[11px]">
              {tick.label}
            </text>
          ))}
          {flags.map((flag) => (
            <FlagMark key={`${flag.label} ${flag.px}`} flag={flag} />
          ))}
        </svg>
      </div>
      <p className="self-end pr-4 pb-1 text-right text-[12px] text-soft" style={{ width: measurePx }}>
        duration
      </p>
    </div>
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

/** The milestones' lines and the axis' grid behind the strips. */
export function ChartGround({
  milestones,
  scale,
  ticks,
  heightPx,
}: {
  readonly milestones: readonly Milestone[];
  readonly scale: Scale;
  readonly ticks: readonly Tick[];
  readonly heightPx: number;
}) {
  return (
    <svg width={scale.widthPx} height={heightPx} aria-hidden="true" className="block">
      {ticks.map((tick) => (
        <line key={tick.atMs} x1={tick.px} x2={tick.px} y1={0} y2={heightPx} className="stroke-grid" />
      ))}
      {milestones.map(({ label, atMs }) => (
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
}
