import { memo } from 'react';
import { classifyOutcome, type ExchangeRow, nameHost } from '#core/analysis';
import type { PlottedLeg } from '#core/brief';
import { clip, type Scale, stairsOf, toPx } from '#core/chart';
import { type DeltaName, deltaOf, nameBoth, tellFacts, tellTimes } from '#core/compare';
import { PHASE_TONE, signedBytes, signedMs } from '#core/wording';
import { KIND_LETTER } from '../ui/kind';
import { OUTCOME_FILL, StatusMark, statusWord } from '../ui/status';
import type { PairOrder, ShownPair } from './pairs';
import { toneOf } from './tone';

export const PAIR_PX = 46;
export const PAIR_KEY_PX = 320;
export const PAIR_WORDS_PX = 270;
const STAIRS_PX = 17;
const LEAST_PX = 1.5;

/** The legs of each load's route by the exchanges that they are. */
export interface Routes {
  readonly a: ReadonlyMap<number, PlottedLeg>;
  readonly b: ReadonlyMap<number, PlottedLeg>;
}

/** How the times of an exchange spread over the loads of its side. */
export interface Spreads {
  readonly a: ReadonlyMap<number, readonly number[]>;
  readonly b: ReadonlyMap<number, readonly number[]>;
}

/** What every row of the list is given alike. */
export interface RowFrame {
  readonly scale: Scale;
  readonly topPx: number;
  readonly place: number;
  readonly count: number;
  readonly isCurrent: boolean;
}

interface PairRowProps extends RowFrame {
  readonly shown: ShownPair;
  /** It stands under its group's row, which says what they did together. */
  readonly isInGroup: boolean;
  readonly routes: Routes;
  readonly spreads: Spreads;
  readonly order: PairOrder;
  readonly onPick: (key: string) => void;
}

/**
 * One pair: its key, the stairs of both loads under one another, what it did and why. Long because it is the markup of one
 * row.
 */
export const PairRow = memo(function PairRow(props: PairRowProps) {
  const { shown, isInGroup, scale, routes, spreads, order, topPx, place, count, isCurrent, onPick } = props;
  const { key, pair, a, b } = shown;
  const name = nameBoth(a, b);
  const row = a ?? b;
  const told = tellPair(isInGroup ? { ...shown, did: undefined } : shown, order);
  const word = b === undefined ? undefined : statusWord(b);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the list itself has the keys, for the pair that is current.
    <div
      id={`pair-${key}`}
      role="treeitem"
      tabIndex={-1}
      aria-level={isInGroup ? 2 : 1}
      aria-selected={isCurrent}
      aria-posinset={place + 1}
      aria-setsize={count}
      aria-label={`${name}, ${row === undefined ? '' : nameHost(row.host)}, ${pair.changes.join(', ')}: ${told.value} ${told.words}`}
      data-pair={key}
      onClick={() => onPick(key)}
      style={{ transform: `translateY(${topPx}px)`, height: PAIR_PX }}
      className={`absolute inset-x-0 top-0 flex cursor-pointer items-center border-grid border-b contain-strict ${isCurrent ? 'current' : 'hover:bg-sheet/60'}`}
    >
      <div
        className="flex shrink-0 items-center gap-2.5"
        style={{ width: PAIR_KEY_PX, paddingLeft: isInGroup ? 34 : 16 }}
      >
        <span
          title={row?.kind}
          className="flex size-[18px] shrink-0 items-center justify-center border border-soft font-bold text-[10px] text-soft"
        >
          {row === undefined ? '' : KIND_LETTER[row.kind]}
        </span>
        <span className="min-w-0 flex-1 pr-3 leading-tight">
          <span className="block truncate font-semibold text-[13px]" title={row?.url}>
            {name}
          </span>
          <span className="block truncate text-[11px] text-soft">{row === undefined ? '' : nameHost(row.host)}</span>
        </span>
        <span className="pr-2">
          {b === undefined || word === undefined ? null : <StatusMark row={b} word={word} />}
        </span>
      </div>
      <svg width={scale.widthPx} height={PAIR_PX} aria-hidden="true" className="shrink-0 overflow-hidden">
        <SideStairs row={a} legs={routes.a} times={spreads.a} scale={scale} topPx={3} tone="fill-soft stroke-soft" />
        <SideStairs
          row={b}
          legs={routes.b}
          times={spreads.b}
          scale={scale}
          topPx={4 + PAIR_PX / 2}
          tone={b === undefined ? '' : OUTCOME_FILL[classifyOutcome(b)]}
        />
      </svg>
      <div className="min-w-0 shrink-0 pr-4 pl-2 text-right leading-tight" style={{ width: PAIR_WORDS_PX }}>
        <span className={`block truncate font-semibold text-[13px] ${told.tone}`}>{told.value}</span>
        <span className="block truncate text-[11px] text-soft" title={told.words}>
          {told.words}
        </span>
      </div>
    </div>
  );
});

interface SideStairsProps {
  readonly row: ExchangeRow | undefined;
  readonly legs: ReadonlyMap<number, PlottedLeg>;
  readonly times: ReadonlyMap<number, readonly number[]>;
  readonly scale: Scale;
  readonly topPx: number;
  readonly tone: string;
}

/** The stairs of one load's exchange, the piece of it that its load waited for underlined, and behind it how long it took in others. */
function SideStairs({ row, legs, times, scale, topPx, tone }: SideStairsProps) {
  const ground = topPx + STAIRS_PX;
  if (row === undefined)
    return <line x1={0} x2={scale.widthPx} y1={ground} y2={ground} strokeDasharray="1 5" className="stroke-line" />;
  const { startMs } = row;
  if (startMs === undefined)
    return (
      <text x={0} y={ground - 4} className="fill-soft text-[11px]">
        start unknown
      </text>
    );
  const leg = legs.get(row.index);
  const others = times.get(row.index) ?? [];
  const px = (ms: number): number => clip(toPx(scale, ms), scale);
  const [least, most] = [Math.min(...others), Math.max(...others)];
  return (
    <g className={tone}>
      {others.length < 2 ? null : (
        <line
          x1={px(startMs + least)}
          x2={px(startMs + most)}
          y1={topPx + STAIRS_PX / 2}
          y2={topPx + STAIRS_PX / 2}
          strokeWidth={3}
          strokeOpacity={0.35}
        />
      )}
      {stairsOf(row, startMs, scale).map((step) => (
        <rect
          key={step.phase}
          x={step.fromPx}
          y={topPx + STAIRS_PX * (1 - step.height)}
          width={Math.max(LEAST_PX, step.widthPx)}
          height={STAIRS_PX * step.height}
          strokeWidth={step.widthPx < 3 ? 0 : 1}
          fillOpacity={step.widthPx < 3 ? 1 : PHASE_TONE[step.phase]}
        />
      ))}
      {row.timeMs === undefined ? (
        <path d={`M${px(startMs)} ${topPx}v${STAIRS_PX}`} strokeDasharray="2 3" className="fill-none stroke-2" />
      ) : null}
      {leg === undefined ? null : (
        <line
          x1={px(leg.startMs)}
          x2={Math.max(px(leg.startMs) + LEAST_PX, px(leg.endMs))}
          y1={ground + 1}
          y2={ground + 1}
          strokeWidth={2}
          className="stroke-route"
        />
      )}
    </g>
  );
}

/** What stands at the right edge: by what pairs are arranged, and why. */
export function tellPair(
  { pair, a, b, did }: ShownPair,
  order: PairOrder,
): { readonly value: string; readonly words: string; readonly tone: string } {
  const facts = tellFacts(pair, a, b);
  const times = tellTimes(a, b);
  const words = [facts, times].filter((text) => text !== '').join('; ');
  if (order === 'did' && did !== undefined) {
    const with_ = did.others === 0 ? '' : `, with ${did.others} more`;
    // The times that changed stand in the reason already.
    const why = did.others === 0 ? [did.why, facts].filter((text) => text !== '').join('; ') : words;
    return { value: `${signedMs(did.ms)}${with_}`, words: why, tone: toneOf(did.ms) };
  }
  if (b === undefined) return { value: 'gone', words: '', tone: 'text-soft' };
  if (a === undefined) return { value: 'new', words: '', tone: 'text-ink' };
  const name: DeltaName = order === 'did' || order === 'start' ? 'time' : order;
  const delta = deltaOf(name, a, b);
  if (delta === undefined) return { value: 'unknown', words, tone: 'text-soft' };
  const isBytes = name === 'wire' || name === 'body';
  const rounded = isBytes ? delta : Math.abs(delta) < 0.05 ? 0 : delta;
  // What did nothing to the load is told without its tone: it is no gain and no loss.
  const tone = order === 'did' ? 'text-soft' : toneOf(rounded);
  return { value: isBytes ? signedBytes(rounded) : signedMs(rounded), words, tone };
}
