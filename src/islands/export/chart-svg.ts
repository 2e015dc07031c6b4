import { classifyOutcome, nameExchange, type OutcomeClass } from '#core/analysis';
import { type Scale, stairsOf, ticksOf, toPx } from '#core/chart';
import type { Milestone } from '#core/model';
import { profileInFlight } from '#core/timing';
import { escapeXml, PHASE_TONE } from '#core/wording';
import { type Placed, spanOf } from '../waterfall/arrange';
import { PROFILE_LEVELS, placeFlags, profileOutline } from '../waterfall/geometry';
import type { ChartRow } from '../waterfall/layout';
import { MEASURES, type MeasureId, measureOf, sumUp } from '../waterfall/measures';

/** The colours of the look in which the chart is drawn. */
export interface ChartColours {
  readonly paper: string;
  readonly ink: string;
  readonly soft: string;
  readonly grid: string;
  readonly outcome: Readonly<Record<OutcomeClass, string>>;
}

export interface ChartDrawing {
  readonly title: string;
  /** What is drawn, in a sentence: how many exchanges, by which filter, over what time. */
  readonly subtitle: string;
  readonly rows: readonly ChartRow[];
  readonly milestones: readonly Milestone[];
  readonly scale: Scale;
  readonly measure: MeasureId;
  readonly colours: ChartColours;
}

/** Rows beyond these are named in number only: no picture can be read that is higher. */
export const MOST_ROWS = 1000;

const KEY_PX = 260;
const MEASURE_PX = 96;
const PAD_PX = 24;
const HEAD_PX = 64;
const BAND_PX = 70;
const AXIS_PX = 22;
const ROW_PX = 20;
const LEGEND_PX = 56;

const shorten = (text: string, most: number): string => (text.length > most ? `${text.slice(0, most - 1)}…` : text);

/** The chart as a picture of its own, with title, axis and legend: an SVG document. */
export function drawChart(drawing: ChartDrawing): {
  readonly svg: string;
  readonly widthPx: number;
  readonly heightPx: number;
} {
  const { scale, colours, milestones } = drawing;
  const rows = drawing.rows.slice(0, MOST_ROWS);
  const widthPx = PAD_PX * 2 + KEY_PX + scale.widthPx + MEASURE_PX;
  const topPx = HEAD_PX + BAND_PX + AXIS_PX;
  const groundPx = topPx + rows.length * ROW_PX;
  const heightPx = groundPx + LEGEND_PX;
  const ticks = ticksOf(scale, 96);
  const placed = drawing.rows.flatMap((row) =>
    row.type === 'lane' ? (row.isFolded ? row.members : []) : [row.placed],
  );
  const flags = placeFlags(
    milestones.filter(({ atMs }) => atMs >= scale.fromMs && atMs <= scale.toMs),
    scale,
  );
  const line = (x1: number, y1: number, x2: number, y2: number, stroke: string, dash = ''): string =>
    `<line x1="${n(x1)}" y1="${n(y1)}" x2="${n(x2)}" y2="${n(y2)}" stroke="${stroke}"${dash === '' ? '' : ` stroke-dasharray="${dash}"`}/>`;
  const parts = [
    `<rect width="${widthPx}" height="${heightPx}" fill="${colours.paper}"/>`,
    label(PAD_PX, 28, drawing.title, `fill="${colours.ink}" font-size="18" font-weight="700"`),
    label(PAD_PX, 48, drawing.subtitle, `fill="${colours.soft}" font-size="12"`),
    `<g transform="translate(${PAD_PX + KEY_PX} 0)">`,
    ...ticks.map((tick) => line(tick.px, HEAD_PX, tick.px, groundPx, colours.grid)),
    ...ticks.map((tick) => label(tick.px + 3, topPx - 7, tick.label, `fill="${colours.soft}" font-size="11"`)),
    drawProfile(placed, scale, colours),
    ...flags.flatMap((flag) => [
      line(flag.px, HEAD_PX + flag.level * 16, flag.px, groundPx, colours.ink, '2 3'),
      label(
        flag.toLeft ? flag.px - 4 : flag.px + 4,
        HEAD_PX + 11 + flag.level * 16,
        flag.label,
        `fill="${colours.ink}" font-size="11" font-weight="700"${flag.toLeft ? ' text-anchor="end"' : ''}`,
      ),
    ]),
    '</g>',
    ...rows.map((row, at) => drawRow(row, topPx + at * ROW_PX, widthPx, drawing)),
    drawLegend(groundPx + 30, drawing.rows.length - rows.length, colours),
  ];
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${widthPx}" height="${heightPx}" viewBox="0 0 ${widthPx} ${heightPx}" font-family="Overpass, system-ui, sans-serif">${parts.join('')}</svg>`;
  return { svg, widthPx, heightPx };
}

const n = (value: number): number => Math.round(value * 10) / 10;

const label = (x: number, y: number, text: string, attributes: string): string =>
  `<text x="${n(x)}" y="${n(y)}" ${attributes}>${escapeXml(text)}</text>`;

function drawProfile(placed: readonly Placed[], scale: Scale, colours: ChartColours): string {
  const { steps, max } = profileInFlight(placed.flatMap(spanOf));
  const area = (level: (typeof PROFILE_LEVELS)[keyof typeof PROFILE_LEVELS], opacity: number): string =>
    `<polygon points="${profileOutline(steps, level, max, scale, BAND_PX - 24)}" fill="${colours.outcome.plain}" fill-opacity="${opacity}"/>`;
  const areas = [
    area(PROFILE_LEVELS.settingUp, 0.18),
    area(PROFILE_LEVELS.waiting, 0.25),
    area(PROFILE_LEVELS.downloading, 0.6),
  ];
  return `<svg y="${HEAD_PX + 20}" width="${n(scale.widthPx)}" height="${BAND_PX - 20}">${areas.join('')}</svg>`;
}

function drawRow(row: ChartRow, topPx: number, widthPx: number, { scale, measure, colours }: ChartDrawing): string {
  const indent = PAD_PX + (row.level - 1) * 12;
  const rule = `<line x1="${PAD_PX}" y1="${topPx + ROW_PX}" x2="${widthPx - PAD_PX}" y2="${topPx + ROW_PX}" stroke="${colours.grid}"/>`;
  const value =
    row.type === 'lane'
      ? sumUp(
          row.members.map(({ row: own }) => own),
          measure,
        )
      : measureOf(row.placed.row, measure);
  const number = label(
    widthPx - PAD_PX,
    topPx + 14,
    MEASURES[measure].format(value),
    `fill="${colours.ink}" font-size="11" text-anchor="end"`,
  );
  const chart = (inside: string): string =>
    `<svg x="${PAD_PX + KEY_PX}" y="${topPx}" width="${n(scale.widthPx)}" height="${ROW_PX}">${inside}</svg>`;
  if (row.type === 'lane') {
    const { steps, max } = profileInFlight(row.members.flatMap(spanOf));
    const points = profileOutline(steps, PROFILE_LEVELS.settingUp, max, scale, ROW_PX - 4);
    const profile = row.isFolded
      ? `<polygon points="${points}" fill="${colours.outcome.plain}" fill-opacity="0.3"/>`
      : '';
    const name = `${shorten(row.value ?? 'unknown', 34)} (${row.members.length})`;
    return (
      label(indent, topPx + 14, name, `fill="${colours.ink}" font-size="12" font-weight="700"`) +
      chart(profile) +
      number +
      rule
    );
  }
  const { row: own, startMs } = row.placed;
  const status =
    own.status === undefined
      ? 'none'
      : own.status >= 200 && own.status < 300 && own.failure === undefined
        ? ''
        : String(own.status);
  const colour = colours.outcome[classifyOutcome(own)];
  const key =
    label(indent, topPx + 14, `${own.index}`, `fill="${colours.soft}" font-size="10"`) +
    label(indent + 26, topPx + 14, shorten(nameExchange(own), 32), `fill="${colours.ink}" font-size="12"`) +
    label(
      PAD_PX + KEY_PX - 8,
      topPx + 14,
      status,
      `fill="${colour}" font-size="11" font-weight="700" text-anchor="end"`,
    );
  return key + chart(startMs === undefined ? '' : drawStairs(row.placed, startMs, scale, colour)) + number + rule;
}

function drawStairs({ row }: Placed, startMs: number, scale: Scale, colour: string): string {
  const steps = stairsOf(row, startMs, scale);
  if (steps.length === 0) {
    const x = n(toPx(scale, startMs));
    return `<line x1="${x}" y1="2" x2="${x}" y2="${ROW_PX - 2}" stroke="${colour}" stroke-dasharray="2 2"/>`;
  }
  return steps
    .map(({ phase, fromPx, widthPx, height }) => {
      const high = (ROW_PX - 4) * height;
      const opacity = widthPx < 3 ? 1 : PHASE_TONE[phase];
      return `<rect x="${n(fromPx)}" y="${n(2 + ROW_PX - 4 - high)}" width="${n(Math.max(1.2, widthPx))}" height="${n(high)}" fill="${colour}" fill-opacity="${opacity}" stroke="${colour}" stroke-width="${widthPx < 3 ? 0 : 0.8}"/>`;
    })
    .join('');
}

const OUTCOME_WORDS: Record<OutcomeClass, string> = {
  plain: 'network',
  cached: 'from cache',
  redirect: 'redirect',
  failed: 'failed',
};

function drawLegend(y: number, leftOut: number, colours: ChartColours): string {
  const steps = 'Steps from low to high: held, connection set-up, server wait, download.';
  const more = leftOut > 0 ? ` ${leftOut} more rows are not drawn.` : '';
  let x = PAD_PX + 560;
  const marks = (Object.keys(OUTCOME_WORDS) as OutcomeClass[]).map((outcome) => {
    const mark =
      `<rect x="${x}" y="${y - 10}" width="12" height="12" fill="${colours.outcome[outcome]}"/>` +
      label(x + 18, y, OUTCOME_WORDS[outcome], `fill="${colours.ink}" font-size="12"`);
    x += 40 + OUTCOME_WORDS[outcome].length * 6.5;
    return mark;
  });
  return label(PAD_PX, y, steps + more, `fill="${colours.ink}" font-size="12"`) + marks.join('');
}
