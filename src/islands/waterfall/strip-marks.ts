import { classifyOutcome, type OutcomeClass } from '#core/analysis';
import { clip, type Scale, type Step, stairsOf, toPx } from '#core/chart';
import { PHASE_TONE } from '#core/wording';
import type { Placed } from './arrange';
import { type EndMark, endMarkOf } from './geometry';

// The marks of a strip as paths: one path draws all that is drawn alike, of one strip or of many. An element for each step
// of each strip was most of what scrolling cost.

export const STRIP_PX = 26;
const STAIRS_PX = 20;
/** Anything shorter is still drawn this wide, so that it can be seen at every zoom. */
const LEAST_PX = 1.5;
/** What is narrower has no outline: it would be all of it. */
const OUTLINED_PX = 3;

/** How a mark is drawn: in a phase's tone, as a length whose phases are unknown, too narrow for an outline, or as a stroke. */
export type Ink = `tone ${number}` | 'unphased' | 'narrow' | 'stroke' | 'unrecorded';

/** A mark: its ink, and where it is drawn, from the left edge of the stairs and the top of its strip on. */
export interface Mark {
  readonly ink: Ink;
  readonly d: string;
}

/** The marks of an exchange, and the outcome in whose hue they are drawn; none where its start is unknown. */
export function marksOf(
  { row, startMs, endMs }: Placed,
  scale: Scale,
  lastMs: number,
  topPx: number,
): { readonly outcome: OutcomeClass; readonly marks: readonly Mark[] } {
  const outcome = classifyOutcome(row);
  if (startMs === undefined) return { outcome, marks: [] };
  const fromPx = toPx(scale, startMs);
  const toEndPx = toPx(scale, endMs ?? startMs);
  if (toEndPx < 0) return { outcome, marks: [stroke(`M9 ${topPx + 9}l-5 5l5 5`)] };
  if (fromPx > scale.widthPx) return { outcome, marks: [stroke(`M${scale.widthPx - 9} ${topPx + 9}l5 5l-5 5`)] };
  const end = endMarkOf(row, endMs, lastMs);
  return {
    outcome,
    marks: [
      ...stepMarks(stairsOf(row, startMs, scale), fromPx, topPx),
      ...(outcome === 'cached' ? [sparedMark(fromPx, topPx)] : []),
      ...(end === undefined ? [] : [endMark(end, clip(Math.max(toEndPx, fromPx + LEAST_PX), scale), topPx)]),
    ],
  };
}

/** The stairs. An exchange whose length nobody recorded: a stroke where it started, and dots for what is not known. */
export function stepMarks(steps: readonly Step[], fromPx: number, topPx: number): Mark[] {
  if (steps.length === 0) {
    const px = round(fromPx);
    return [{ ink: 'unrecorded', d: `M${px} ${topPx + 3}v20M${round(fromPx + 4)} ${topPx + 13}h14` }];
  }
  return steps.map((step) => {
    const heightPx = round(STAIRS_PX * step.height);
    const widthPx = round(Math.max(LEAST_PX, step.widthPx));
    return { ink: inkOf(step), d: `M${round(step.fromPx)} ${topPx + 23}v-${heightPx}h${widthPx}v${heightPx}z` };
  });
}

function inkOf({ phase, widthPx }: Step): Ink {
  if (widthPx < OUTLINED_PX) return 'narrow';
  return phase === 'unknown' ? 'unphased' : `tone ${PHASE_TONE[phase]}`;
}

/** What cache or the like spared: a ring before its stairs. */
export const sparedMark = (fromPx: number, topPx: number): Mark =>
  stroke(`M${round(fromPx - 10.5)} ${topPx + 17}a3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0 -7 0`);

/** How it ended, where that is not plain: a cross, a torn edge, a step down to where it led, an arrow on and on. */
const END_SHAPE: Record<EndMark, string> = {
  failed: 'm4 9l7 7m0 -7l-7 7',
  torn: 'm2 3l4 4l-4 4l4 4l-4 4',
  hop: 'm3 13h6v5m-3 -3l3 3l3 -3',
  open: 'm3 12h9m-4 -4l4 4l-4 4',
};

export const endMark = (mark: EndMark, atPx: number, topPx: number): Mark =>
  stroke(`M${round(atPx)} ${topPx + 2}${END_SHAPE[mark]}`);

const stroke = (d: string): Mark => ({ ink: 'stroke', d });

const round = (px: number): number => Math.round(px * 100) / 100;

/** Marks that are drawn alike as one path each. */
export function byInk(marks: readonly Mark[]): ReadonlyMap<Ink, string> {
  const paths = new Map<Ink, string>();
  for (const { ink, d } of marks) paths.set(ink, (paths.get(ink) ?? '') + d);
  return paths;
}
