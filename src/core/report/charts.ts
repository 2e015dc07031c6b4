import { classifyOutcome, type ExchangeRow, nameExchange, type OutcomeClass } from '../analysis';
import { type Scale, stairsOf, ticksOf, toPx } from '../chart';
import type { Milestone, Phases } from '../model';
import { escapeXml, formatCount, formatMs, formatPlural, inLine, PHASE_NAME, PHASE_TONE } from '../wording';
import type { Block } from './document';

/** A stretch of an exchange, in ms since the page's start. */
interface Strip {
  readonly number: string;
  readonly name: string;
  readonly startMs: number;
  readonly endMs: number;
  /** In the order of time; empty where they are not known. */
  readonly phases: Phases;
  readonly outcome: OutcomeClass | 'gap';
}

/** Told apart in print without colour, too: what failed has its status beside its name in the tables. */
const FILL: Record<Strip['outcome'], string> = {
  plain: '#1d4f91',
  cached: '#2f7d4f',
  redirect: '#8a5a00',
  failed: '#b3261e',
  gap: '#8a8f99',
};
const FILL_NAME: Record<Strip['outcome'], string> = {
  plain: 'network',
  cached: 'from cache',
  redirect: 'redirect',
  failed: 'failed',
  gap: 'gap',
};

const WIDTH_PX = 1000;
const NAME_PX = 250;
const LENGTH_PX = 70;
const ROW_PX = 18;
const HEAD_PX = 26;
const FOOT_PX = 42;
const STAIRS_PX = 14;
const CHART_PX = WIDTH_PX - NAME_PX - LENGTH_PX;
const NAME_CHARS = 30;
/** Between two ticks there is so much room at least. */
const TICK_PX = 85;

/** More rows than these cannot be read on paper. */
export const MOST_STRIPS = 120;

/** The exchanges of a page as strips over time, as far as they have a start: those of the longest load first left out. */
export function chartExchanges(rows: readonly ExchangeRow[], milestones: readonly Milestone[]): Block | undefined {
  const drawn = rows.flatMap((row): Strip[] =>
    row.startMs === undefined
      ? []
      : [
          {
            number: `#${row.index}`,
            name: nameExchange(row),
            startMs: row.startMs,
            endMs: row.startMs + (row.timeMs ?? 0),
            phases: row.phases,
            outcome: classifyOutcome(row),
          },
        ],
  );
  if (drawn.length === 0) return undefined;
  const strips = drawn.toSorted((a, b) => a.startMs - b.startMs).slice(0, MOST_STRIPS);
  const left = drawn.length - strips.length;
  const endMs = drawn.reduce((end, strip) => Math.max(end, strip.endMs), 0);
  const more = left === 0 ? '' : ` The first ${strips.length} are drawn, ${left} later ones are not.`;
  const alternative =
    `${formatPlural(drawn.length, 'exchange')} over ${formatMs(endMs)}, each from its start to its end.${more} ` +
    'Steps rise from low to high: blocked, connection set-up, send and wait, receive.';
  return { type: 'chart', svg: drawStrips('Exchanges over time', strips, milestones), alternative };
}

/**
 * The legs of a route one after the other.
 * @param of how many legs the route has, where only the longest are given
 */
export function chartRoute(
  legs: readonly Omit<Strip, 'outcome' | 'number'>[],
  outcomes: readonly Strip['outcome'][],
  of = legs.length,
): Block {
  const strips = legs.map((leg, at): Strip => ({ ...leg, number: '', outcome: outcomes[at] ?? 'plain' }));
  const longest = strips.toSorted((a, b) => b.endMs - b.startMs - (a.endMs - a.startMs))[0];
  const alternative =
    longest === undefined
      ? 'The route has no legs.'
      : `The route's ${of > strips.length ? `${strips.length} longest legs of ${formatCount(of)}` : formatPlural(strips.length, 'leg')} in the order of time; the longest, ${longest.name}, took ${formatMs(longest.endMs - longest.startMs)}.`;
  return { type: 'chart', svg: drawStrips('The route', strips, []), alternative };
}

const n = (value: number): number => Math.round(value * 10) / 10;
const text = (x: number, y: number, words: string, more = ''): string =>
  `<text x="${n(x)}" y="${n(y)}"${more}>${escapeXml(inLine(words))}</text>`;

const END = ' text-anchor="end"';

function drawStrips(title: string, strips: readonly Strip[], milestones: readonly Milestone[]): string {
  const fromMs = strips.reduce((least, { startMs }) => Math.min(least, startMs), 0);
  const lastMs = [...strips.map(({ endMs }) => endMs), ...milestones.map(({ atMs }) => atMs)].reduce(
    (most, ms) => Math.max(most, ms),
    fromMs,
  );
  const spanMs = Math.max(lastMs - fromMs, 1);
  const scale: Scale = { fromMs, toMs: fromMs + spanMs, widthPx: CHART_PX };
  const xOf = (ms: number): number => NAME_PX + toPx(scale, ms);
  const groundPx = HEAD_PX + strips.length * ROW_PX;
  const heightPx = groundPx + FOOT_PX;
  const used = [...new Set(strips.map(({ outcome }) => outcome))];
  const parts = [
    ...ticksOf(scale, TICK_PX).map(
      ({ px, label }) =>
        `<line x1="${n(NAME_PX + px)}" y1="${HEAD_PX - 6}" x2="${n(NAME_PX + px)}" y2="${groundPx}" stroke="#d4cfbf"/>${text(NAME_PX + px + 3, HEAD_PX - 10, label, ' fill="#565f6e"')}`,
    ),
    ...milestones.map(
      ({ label, atMs }, at) =>
        `<line x1="${n(xOf(atMs))}" y1="${HEAD_PX}" x2="${n(xOf(atMs))}" y2="${groundPx + 12}" stroke="#1a2230" stroke-dasharray="2 3"/>${text(xOf(atMs) - 4, groundPx + 12 - (at % 2) * 11, label, END)}`,
    ),
    ...strips.map((strip, at) => drawStrip(strip, HEAD_PX + at * ROW_PX, scale)),
    ...used.map(
      (outcome, at) =>
        `<rect x="${NAME_PX + at * 110}" y="${heightPx - 14}" width="11" height="11" fill="${FILL[outcome]}"/>${text(NAME_PX + 16 + at * 110, heightPx - 4, FILL_NAME[outcome])}`,
    ),
  ];
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH_PX} ${heightPx}" role="img" aria-label="${escapeXml(title)}" font-family="system-ui, sans-serif" font-size="11" fill="#1a2230">${parts.join('')}</svg>`;
}

function drawStrip(strip: Strip, topPx: number, scale: Scale): string {
  const { number, name, startMs, endMs, phases, outcome } = strip;
  const shownName = name.length > NAME_CHARS ? `${name.slice(0, NAME_CHARS - 1)}…` : name;
  const colour = FILL[outcome];
  const steps = stairsOf({ phases, timeMs: endMs - startMs }, startMs, scale).map(
    ({ phase, fromPx, widthPx, height }) => {
      const high = STAIRS_PX * height;
      const shownPx = Math.max(1.2, widthPx);
      const tone = shownPx < 3 ? 1 : PHASE_TONE[phase];
      const what = phase === 'unknown' ? '' : `<title>${PHASE_NAME[phase]} ${formatMs(phases[phase])}</title>`;
      return `<rect x="${n(NAME_PX + fromPx)}" y="${n(topPx + STAIRS_PX - high)}" width="${n(shownPx)}" height="${n(high)}" fill="${colour}" fill-opacity="${tone}" stroke="${colour}" stroke-width="0.7">${what}</rect>`;
    },
  );
  return [
    text(34, topPx + 11, number, ` fill="#565f6e"${END}`),
    text(number === '' ? 0 : 42, topPx + 11, shownName),
    ...steps,
    text(WIDTH_PX, topPx + 11, formatMs(endMs - startMs), END),
  ].join('');
}
