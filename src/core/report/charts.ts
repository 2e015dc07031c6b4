import { classifyOutcome, type ExchangeRow, nameExchange, type OutcomeClass } from '../analysis';
import { type Milestone, PHASES, type PhaseName } from '../model';
import { escapeXml, formatMs, formatPlural, inLine, PHASE_HEIGHT, PHASE_NAME, PHASE_TONE } from '../wording';
import type { Block } from './document';

/** A stretch of an exchange, in ms since the page's start. */
interface Strip {
  readonly number: string;
  readonly name: string;
  readonly startMs: number;
  readonly endMs: number;
  /** In the order of time; empty where they are not known. */
  readonly phases: Readonly<Partial<Record<PhaseName, number | undefined>>>;
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

/** The legs of a route one after the other. */
export function chartRoute(
  legs: readonly Omit<Strip, 'outcome' | 'number'>[],
  outcomes: readonly Strip['outcome'][],
): Block {
  const strips = legs.map((leg, at): Strip => ({ ...leg, number: '', outcome: outcomes[at] ?? 'plain' }));
  const longest = strips.toSorted((a, b) => b.endMs - b.startMs - (a.endMs - a.startMs))[0];
  const alternative =
    longest === undefined
      ? 'The route has no legs.'
      : `The route's ${formatPlural(strips.length, 'leg')} in the order of time; the longest, ${longest.name}, took ${formatMs(longest.endMs - longest.startMs)}.`;
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
  const xOf = (ms: number): number => NAME_PX + ((ms - fromMs) / spanMs) * CHART_PX;
  const groundPx = HEAD_PX + strips.length * ROW_PX;
  const heightPx = groundPx + FOOT_PX;
  const stepMs = tickOf(spanMs);
  const first = Math.ceil(fromMs / stepMs);
  const ticks = Array.from({ length: Math.floor(lastMs / stepMs) - first + 1 }, (_, at) => (first + at) * stepMs);
  const used = [...new Set(strips.map(({ outcome }) => outcome))];
  const parts = [
    ...ticks.map(
      (ms) =>
        `<line x1="${n(xOf(ms))}" y1="${HEAD_PX - 6}" x2="${n(xOf(ms))}" y2="${groundPx}" stroke="#d4cfbf"/>${text(xOf(ms) + 3, HEAD_PX - 10, formatMs(ms), ' fill="#565f6e"')}`,
    ),
    ...milestones.map(
      ({ label, atMs }, at) =>
        `<line x1="${n(xOf(atMs))}" y1="${HEAD_PX}" x2="${n(xOf(atMs))}" y2="${groundPx + 12}" stroke="#1a2230" stroke-dasharray="2 3"/>${text(xOf(atMs) - 4, groundPx + 12 - (at % 2) * 11, label, END)}`,
    ),
    ...strips.map((strip, at) => drawStrip(strip, HEAD_PX + at * ROW_PX, xOf)),
    ...used.map(
      (outcome, at) =>
        `<rect x="${NAME_PX + at * 110}" y="${heightPx - 14}" width="11" height="11" fill="${FILL[outcome]}"/>${text(NAME_PX + 16 + at * 110, heightPx - 4, FILL_NAME[outcome])}`,
    ),
  ];
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH_PX} ${heightPx}" role="img" aria-label="${escapeXml(title)}" font-family="system-ui, sans-serif" font-size="11" fill="#1a2230">${parts.join('')}</svg>`;
}

/** A round step that gives some five to ten ticks. */
function tickOf(spanMs: number): number {
  const rough = spanMs / 8;
  const power = 10 ** Math.floor(Math.log10(rough));
  return ([1, 2, 5, 10].find((factor) => factor * power >= rough) ?? 10) * power;
}

function drawStrip(strip: Strip, topPx: number, xOf: (ms: number) => number): string {
  const { number, name, startMs, endMs, phases, outcome } = strip;
  const shownName = name.length > NAME_CHARS ? `${name.slice(0, NAME_CHARS - 1)}…` : name;
  const colour = FILL[outcome];
  const step = (phase: PhaseName | 'unknown', from: number, to: number): string => {
    const high = STAIRS_PX * PHASE_HEIGHT[phase];
    const widthPx = Math.max(1.2, xOf(to) - xOf(from));
    const tone = widthPx < 3 ? 1 : PHASE_TONE[phase];
    const what = phase === 'unknown' ? '' : `<title>${PHASE_NAME[phase]} ${formatMs(to - from)}</title>`;
    return `<rect x="${n(xOf(from))}" y="${n(topPx + STAIRS_PX - high)}" width="${n(widthPx)}" height="${n(high)}" fill="${colour}" fill-opacity="${tone}" stroke="${colour}" stroke-width="0.7">${what}</rect>`;
  };
  const known = PHASES.flatMap((phase) => {
    const ms = phases[phase];
    return ms === undefined || ms <= 0 ? [] : [{ phase, ms }];
  });
  let atMs = startMs;
  const steps = known.map(({ phase, ms }) => {
    const drawn = step(phase, atMs, atMs + ms);
    atMs += ms;
    return drawn;
  });
  return [
    text(34, topPx + 11, number, ` fill="#565f6e"${END}`),
    text(number === '' ? 0 : 42, topPx + 11, shownName),
    ...(steps.length > 0 ? steps : [step('unknown', startMs, endMs)]),
    text(WIDTH_PX, topPx + 11, formatMs(endMs - startMs), END),
  ].join('');
}
