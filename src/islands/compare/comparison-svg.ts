import { classifyOutcome, type ExchangeRow, nameHost } from '#core/analysis';
import { type Scale, stairsOf, ticksOf, toPx, wholeOf } from '#core/chart';
import { nameBoth, nameCauses, noiseOf, tellComparison } from '#core/compare';
import { escapeXml, formatMs, PHASE_TONE, signedWholeMs } from '#core/wording';
import type { ChartColours } from '../export/chart-svg';
import { ledgerSteps, wholeMsOf } from './ledger-steps';
import { tellPair } from './PairRow';
import type { ShownPair } from './pairs';
import type { ShownSides } from './use-compared';

/** Pairs beyond these are named in number only: no picture can be read that is higher. */
const MOST_PAIRS = 500;
const WIDTH_PX = 1200;
const PAD_PX = 24;
const KEY_PX = 280;
const WORDS_PX = 250;
const HEAD_PX = 96;
const STEP_PX = 18;
const PAIR_PX = 40;
const STAIRS_PX = 15;
const CHART_PX = WIDTH_PX - 2 * PAD_PX - KEY_PX - WORDS_PX;

const n = (value: number): number => Math.round(value * 10) / 10;
const shorten = (text: string, most: number): string => (text.length > most ? `${text.slice(0, most - 1)}…` : text);
const label = (x: number, y: number, text: string, attributes: string): string =>
  `<text x="${n(x)}" y="${n(y)}" ${attributes}>${escapeXml(text)}</text>`;

/** A comparison as a picture of its own, with its sentences, the difference in steps and the pairs: an SVG document. */
export function drawComparison(shown: ShownSides, pairs: readonly ShownPair[], colours: ChartColours): string {
  const { a, b, compared } = shown;
  const [first, ...more] = tellComparison(compared);
  const drawn = pairs.slice(0, MOST_PAIRS);
  const steps = drawSteps(shown, colours);
  const topPx = HEAD_PX + steps.heightPx + 40;
  const heightPx = topPx + drawn.length * PAIR_PX + 44;
  const whole = wholeOf(
    [a, b].flatMap(({ rows }) =>
      rows.flatMap(({ startMs, timeMs = 0 }) => (startMs === undefined ? [] : [startMs, startMs + timeMs])),
    ),
  );
  const scale: Scale = { ...whole, widthPx: CHART_PX };
  const leftOut = pairs.length - drawn.length;
  const foot = [noiseOf(compared), leftOut > 0 ? `${leftOut} more pairs are not drawn` : ''].filter(
    (text) => text !== '',
  );
  const parts = [
    `<rect width="${WIDTH_PX}" height="${heightPx}" fill="${colours.paper}"/>`,
    label(PAD_PX, 26, `${a.drawn.name} against ${b.drawn.name}`, `fill="${colours.soft}" font-size="12"`),
    label(PAD_PX, 52, first, `fill="${colours.ink}" font-size="18" font-weight="700"`),
    label(PAD_PX, 74, shorten(more.join(' '), 170), `fill="${colours.ink}" font-size="12"`),
    `<g transform="translate(0 ${HEAD_PX})">${steps.svg}</g>`,
    ...ticksOf(scale, 96).map((tick) => {
      const x = PAD_PX + KEY_PX + tick.px;
      return `<line x1="${n(x)}" y1="${topPx - 16}" x2="${n(x)}" y2="${heightPx - 40}" stroke="${colours.grid}"/>${label(x + 3, topPx - 6, tick.label, `fill="${colours.soft}" font-size="11"`)}`;
    }),
    ...drawn.map((pair, at) => drawPair(pair, topPx + at * PAIR_PX, scale, colours)),
    label(PAD_PX, heightPx - 16, ['Above: A, below: B', ...foot].join('. '), `fill="${colours.soft}" font-size="12"`),
  ];
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH_PX}" height="${heightPx}" viewBox="0 0 ${WIDTH_PX} ${heightPx}" font-family="Overpass, system-ui, sans-serif"><title>${escapeXml(`${first} ${more.join(' ')}`)}</title>${parts.join('')}</svg>`;
}

function drawSteps(
  { a, b, compared }: ShownSides,
  colours: ChartColours,
): { readonly svg: string; readonly heightPx: number } {
  const { ledger } = compared.drawn;
  if (ledger === undefined) return { svg: '', heightPx: 0 };
  const steps = ledgerSteps(compared.drawn, 'cause', nameCauses(compared.drawn.causes, a.rowOf, b.rowOf));
  const whole = wholeMsOf(steps.map(({ ms }) => ms));
  const rows = [
    { label: `A ${a.drawn.name}`, fromMs: 0, ms: ledger.aMs, value: formatMs(ledger.aMs), isWhole: true },
    ...steps
      .map((step, at) => ({
        ...step,
        value: signedWholeMs(whole[at] ?? 0),
        isWhole: false,
        isDrawn: whole[at] !== 0 || step.key !== 'rest',
      }))
      .filter(({ isDrawn }) => isDrawn),
    { label: `B ${b.drawn.name}`, fromMs: 0, ms: ledger.bMs, value: formatMs(ledger.bMs), isWhole: true },
  ];
  const most = Math.max(1, ...rows.map(({ fromMs, ms }) => Math.max(fromMs, fromMs + ms)));
  const px = (ms: number): number => (Math.max(0, ms) / most) * CHART_PX;
  const svg = rows.map(({ label: name, fromMs, ms, value, isWhole }, at) => {
    const y = at * STEP_PX;
    const [low, high] = [Math.min(fromMs, fromMs + ms), Math.max(fromMs, fromMs + ms)];
    const tone = isWhole ? colours.outcome.plain : ms < 0 ? colours.outcome.cached : colours.outcome.failed;
    return [
      label(
        PAD_PX + KEY_PX - 10,
        y + 13,
        shorten(name, 42),
        `fill="${colours.ink}" font-size="12" text-anchor="end"${isWhole ? ' font-weight="700"' : ''}`,
      ),
      `<rect x="${n(PAD_PX + KEY_PX + px(low))}" y="${y + 3}" width="${n(Math.max(1.5, px(high) - px(low)))}" height="12" fill="${isWhole ? tone : 'none'}" fill-opacity="0.4" stroke="${tone}" stroke-width="1.5"/>`,
      label(PAD_PX + KEY_PX + CHART_PX + 10, y + 13, value, `fill="${isWhole ? colours.ink : tone}" font-size="12"`),
    ].join('');
  });
  return { svg: svg.join(''), heightPx: rows.length * STEP_PX };
}

function drawPair(shown: ShownPair, topPx: number, scale: Scale, colours: ChartColours): string {
  const { a, b } = shown;
  const row = a ?? b;
  const told = tellPair(shown, 'did');
  return [
    label(PAD_PX, topPx + 17, shorten(nameBoth(a, b), 40), `fill="${colours.ink}" font-size="12" font-weight="700"`),
    label(PAD_PX, topPx + 31, row === undefined ? '' : nameHost(row.host), `fill="${colours.soft}" font-size="10"`),
    `<svg x="${PAD_PX + KEY_PX}" y="${topPx}" width="${CHART_PX}" height="${PAIR_PX}">${drawStairs(a, scale, 3, colours.soft)}${drawStairs(b, scale, 5 + STAIRS_PX, b === undefined ? '' : colours.outcome[classifyOutcome(b)])}</svg>`,
    label(
      WIDTH_PX - PAD_PX,
      topPx + 17,
      told.value,
      `fill="${colours.ink}" font-size="12" font-weight="700" text-anchor="end"`,
    ),
    label(
      WIDTH_PX - PAD_PX,
      topPx + 31,
      shorten(told.words, 48),
      `fill="${colours.soft}" font-size="10" text-anchor="end"`,
    ),
    `<line x1="${PAD_PX}" y1="${topPx + PAIR_PX}" x2="${WIDTH_PX - PAD_PX}" y2="${topPx + PAIR_PX}" stroke="${colours.grid}"/>`,
  ].join('');
}

function drawStairs(row: ExchangeRow | undefined, scale: Scale, topPx: number, colour: string): string {
  const startMs = row?.startMs;
  if (row === undefined || startMs === undefined) return '';
  const steps = stairsOf(row, startMs, scale);
  if (steps.length === 0)
    return `<line x1="${n(toPx(scale, startMs))}" x2="${n(toPx(scale, startMs))}" y1="${topPx}" y2="${topPx + STAIRS_PX}" stroke="${colour}" stroke-dasharray="2 2"/>`;
  return steps
    .map(({ phase, fromPx, widthPx, height }) => {
      const high = STAIRS_PX * height;
      return `<rect x="${n(fromPx)}" y="${n(topPx + STAIRS_PX - high)}" width="${n(Math.max(1.2, widthPx))}" height="${n(high)}" fill="${colour}" fill-opacity="${widthPx < 3 ? 1 : PHASE_TONE[phase]}" stroke="${colour}" stroke-width="${widthPx < 3 ? 0 : 0.8}"/>`;
    })
    .join('');
}
