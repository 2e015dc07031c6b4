import { memo, useMemo } from 'react';
import type { ExchangeRow } from '#core/analysis';
import type { Scale } from '#core/chart';
import { shortEndpoint, tellCause } from '#core/compare';
import { type InFlightProfile, profileInFlight } from '#core/timing';
import { signedMs } from '#core/wording';
import { FoldMark } from '../ui/FoldMark';
import { PROFILE_LEVELS, profileOutline } from '../waterfall/geometry';
import { PAIR_KEY_PX, PAIR_PX, PAIR_WORDS_PX, type RowFrame } from './PairRow';
import type { ListedRow, ShownPair } from './pairs';
import { toneOf } from './tone';
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
  const { key, endpoint, members, isFolded } = group;
  const { value, words, tone } = useMemo(() => tellGroup(group, sides), [group, sides]);
  const profiles = profilesOf(members);
  const name = shortEndpoint(endpoint);
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
      aria-label={`${name}: ${value}, ${words}`}
      data-pair-group={endpoint}
      onClick={() => onTurn(key)}
      style={{ transform: `translateY(${topPx}px)`, height: PAIR_PX }}
      className={`absolute inset-x-0 top-0 flex cursor-pointer items-center border-grid border-b contain-strict ${isCurrent ? 'current' : 'hover:bg-sheet/60'}`}
    >
      <div className="flex shrink-0 items-center gap-2.5 pl-4" style={{ width: PAIR_KEY_PX }}>
        <span className="flex size-[18px] shrink-0 items-center justify-center">
          <FoldMark isFolded={isFolded} />
        </span>
        <span className="min-w-0 flex-1 pr-3 leading-tight">
          <span className="block truncate font-semibold text-[13px]" title={endpoint}>
            {name}
          </span>
          <span className="block truncate text-[11px] text-soft">{(first?.a ?? first?.b)?.host}</span>
        </span>
      </div>
      <svg width={scale.widthPx} height={PAIR_PX} aria-hidden="true" className="shrink-0 overflow-hidden">
        <InFlight profile={profiles.a} scale={scale} topPx={3} tone="fill-soft/50 stroke-soft" />
        <InFlight profile={profiles.b} scale={scale} topPx={4 + PAIR_PX / 2} tone="fill-net/50 stroke-net" />
      </svg>
      <div className="min-w-0 shrink-0 pr-4 pl-2 text-right leading-tight" style={{ width: PAIR_WORDS_PX }}>
        <span className={`block truncate font-semibold text-[13px] ${tone}`}>{value}</span>
        <span className="block truncate text-[11px] text-soft" title={words}>
          {words}
        </span>
      </div>
    </div>
  );
});

/** What stands at the right edge: what they did together, else how many there are in either load. */
function tellGroup(
  { cause, members }: PairGroupProps['group'],
  { a, b }: ShownSides,
): { readonly value: string; readonly words: string; readonly tone: string } {
  if (cause !== undefined)
    return { value: signedMs(cause.ms), words: tellCause(cause, a.rowOf, b.rowOf), tone: toneOf(cause.ms) };
  const [gone, fresh] = [
    members.filter((one) => one.b === undefined).length,
    members.filter((one) => one.a === undefined).length,
  ];
  const words = [gone > 0 ? `${gone} gone` : '', fresh > 0 ? `${fresh} new` : ''].filter((text) => text !== '');
  return { value: `${members.length - fresh} → ${members.length - gone}`, words: words.join(', '), tone: 'text-ink' };
}

interface ProfilesOfBoth {
  readonly a: InFlightProfile;
  readonly b: InFlightProfile;
}

const kept = new WeakMap<readonly ShownPair[], ProfilesOfBoth>();

/** How many of a group's exchanges were in flight: made once for as long as the group is what it is, on screen or not. */
function profilesOf(members: readonly ShownPair[]): ProfilesOfBoth {
  const known = kept.get(members);
  if (known !== undefined) return known;
  const profileOf = (rows: readonly ExchangeRow[]): InFlightProfile =>
    profileInFlight(
      rows.flatMap(({ startMs, timeMs = 0, phases }) => (startMs === undefined ? [] : [{ startMs, timeMs, phases }])),
    );
  const made = { a: profileOf(members.flatMap(({ a }) => a ?? [])), b: profileOf(members.flatMap(({ b }) => b ?? [])) };
  kept.set(members, made);
  return made;
}

interface InFlightProps {
  readonly profile: InFlightProfile;
  readonly scale: Scale;
  readonly topPx: number;
  readonly tone: string;
}

function InFlight({ profile, scale, topPx, tone }: InFlightProps) {
  const points = useMemo(
    () => profileOutline(profile.steps, PROFILE_LEVELS.settingUp, profile.max, scale, PROFILE_PX),
    [profile, scale],
  );
  const ground = topPx + PROFILE_PX;
  return points === '' ? (
    <line x1={0} x2={scale.widthPx} y1={ground} y2={ground} strokeDasharray="1 5" className="stroke-line" />
  ) : (
    <polygon points={points} transform={`translate(0 ${topPx})`} className={tone} />
  );
}
