import { useMemo } from 'react';
import { type ExchangeRow, NO_HOST } from '#core/analysis';
import type { BriefPage } from '#core/brief';
import type { Filter } from '#core/filter';
import { printFilter } from '#core/filter';
import type { ProfileSpan } from '#core/timing';
import { formatBytes, formatCount, formatExactBytes, formatMs } from '#core/wording';
import { termFrom, termOf } from '../filter/FilterValue';
import { goTo } from '../state/address';
import { CopyButton } from '../ui/CopyButton';
import { type TextTable, tableAsText } from '../ui/table-text';
import {
  type ChartBar,
  endpointBars,
  GAP_BAR,
  hostBars,
  kindBars,
  partyBars,
  routeBars,
  sourceBars,
  statusBars,
} from './bars';
import { FlightChart } from './FlightChart';
import { Swatch } from './Swatch';

interface BriefChartsProps {
  readonly rows: readonly ExchangeRow[];
  /** The same exchanges at their places on the clock that the waterfall shows. */
  readonly spans: readonly ProfileSpan[];
  /** The route of the page shown; absent where all are. */
  readonly brief: BriefPage | undefined;
}

interface Chart {
  readonly title: string;
  readonly bars: readonly ChartBar[];
  readonly unit: 'bytes' | 'count' | 'time';
  /** What a bar of a name narrows the waterfall to. */
  readonly term: (name: string) => Filter;
  /** Names are long: they get more room. */
  readonly isWide?: boolean;
}

const FORMATS: Record<Chart['unit'], (value: number | undefined) => string> = {
  bytes: formatBytes,
  count: (count) => formatCount(count ?? 0),
  time: formatMs,
};

/**
 * In flight over time, bytes by kind, host, source and party, the route's time by kind, exchanges by status, the slowest
 * endpoints. Every bar narrows the waterfall to itself.
 * Long because it is one drawing, whose parts share one scale.
 */
export default function BriefCharts({ rows, spans, brief }: BriefChartsProps) {
  const charts = useMemo(
    (): Chart[] => [
      {
        title: 'Bytes by kind',
        bars: kindBars(rows),
        unit: 'bytes',
        term: (name: string) => termOf({ name: 'kind' }, name),
      },
      {
        title: 'Bytes by host',
        bars: hostBars(rows),
        unit: 'bytes',
        term: (name: string) => termOf({ name: 'host' }, name === NO_HOST ? '' : name),
      },
      {
        title: 'Bytes by source',
        bars: sourceBars(rows),
        unit: 'bytes',
        term: (name: string) => termOf({ name: 'source' }, name),
      },
      {
        title: 'Bytes by party',
        bars: partyBars(rows),
        unit: 'bytes',
        term: (name: string) => termOf({ name: 'party' }, name === 'unknown' ? undefined : name),
      },
      ...(brief === undefined ? [] : [routeChart(brief, rows)]),
      {
        title: 'Exchanges by status',
        bars: statusBars(rows),
        unit: 'count',
        term: (name: string) => termFrom(name === 'none' ? 'status = unknown' : `status = ${name}`),
      },
      {
        title: 'Slowest endpoints, median',
        isWide: true,
        bars: endpointBars(rows),
        unit: 'time',
        term: (name: string) => termOf({ name: 'endpoint' }, name),
      },
    ],
    [rows, brief],
  );
  return (
    <>
      <FlightChart spans={spans} />
      <div className="mt-8 grid grid-cols-2 gap-x-8 gap-y-6 max-md:grid-cols-1">
        {charts.map(({ title, bars, unit, term, isWide = false }) => (
          <section key={title} aria-label={title} className={`min-w-0 ${isWide ? 'col-span-2 max-md:col-span-1' : ''}`}>
            <div className="mb-1 flex items-baseline gap-3">
              <h2 className="font-bold text-[13px]">{title}</h2>
              {bars.length === 0 ? null : (
                <CopyButton
                  label={`Copy as text: ${title}`}
                  text={() => tableAsText(barTable({ title, bars, unit, term }))}
                />
              )}
            </div>
            {bars.length === 0 ? (
              <p className="text-soft">unknown</p>
            ) : (
              <Bars bars={bars} unit={unit} term={term} isWide={isWide} />
            )}
          </section>
        ))}
      </div>
    </>
  );
}

/** A chart's bars with what they come to. */
const barTable = ({ title, bars, unit }: Chart): TextTable => ({
  title,
  head: unit === 'bytes' ? ['', 'on the wire', 'decoded'] : ['', unit === 'count' ? 'exchanges' : 'time'],
  rows: bars.map(({ name, value, second }) => [
    name,
    FORMATS[unit](value),
    ...(unit === 'bytes' ? [formatBytes(second)] : []),
  ]),
  figures: [1, 2],
});

const routeChart = ({ legs }: BriefPage, rows: readonly ExchangeRow[]): Chart => ({
  title: 'Time on the route by kind',
  bars: routeBars(legs, rows),
  unit: 'time',
  term: (name) => termFrom(name === GAP_BAR ? 'onroute' : `onroute and kind = ${name}`),
});

type BarsProps = Required<Omit<Chart, 'title'>>;

const BAR_PX = 24;
const GAP_PX = 2;
const OUTCOME_FILL: Record<ChartBar['outcome'], string> = {
  plain: 'var(--net)',
  redirect: 'var(--redirect)',
  failed: 'var(--failed)',
};
const SECOND_OPACITY = 0.45;

/**
 * A row for each bar: its name, which opens it in the waterfall, the bar itself, and what it comes to.
 * Long because it is one drawing, whose parts share one scale.
 */
function Bars({ bars, unit, term, isWide }: BarsProps) {
  const open = (name: string): void =>
    goTo({ view: 'waterfall', filter: printFilter(term(name)), hidden: [], exchange: undefined, isOpen: false });
  // Bytes are told twice: as they crossed the wire, and as the page received them.
  const hasSecond = unit === 'bytes';
  const rowStyle = { height: BAR_PX };
  const barPx = (BAR_PX - 2 * GAP_PX) / (hasSecond ? 2 : 1);
  const most = Math.max(...bars.flatMap(({ value = 0, second = 0 }) => [value, hasSecond ? second : 0]));
  const share = (value = 0): string => `${most === 0 ? 0 : (100 * value) / most}%`;
  return (
    <>
      {hasSecond ? <ByteLegend /> : null}
      <div className="flex gap-2 text-[12px]">
        <ul className={`${isWide ? 'w-1/2' : 'w-36'} shrink-0`}>
          {bars.map(({ name }) => (
            <li key={name} style={rowStyle} className="flex items-center">
              <button
                type="button"
                title={name}
                className="truncate text-left text-soft hover:text-ink hover:underline"
                onClick={() => open(name)}
              >
                {name}
              </button>
            </li>
          ))}
        </ul>
        <svg aria-hidden="true" height={bars.length * BAR_PX} className="min-w-0 flex-1">
          {bars.map(({ name, value, second, outcome }, at) => (
            // biome-ignore lint/a11y/noStaticElementInteractions: the list beside it has a button for each bar.
            <g key={name} onClick={() => open(name)} className="cursor-pointer">
              <rect
                data-bar={name}
                y={at * BAR_PX + GAP_PX}
                width={share(value)}
                height={barPx}
                fill={OUTCOME_FILL[outcome]}
              />
              {hasSecond ? (
                <rect
                  y={at * BAR_PX + GAP_PX + barPx}
                  width={share(second)}
                  height={barPx}
                  fill="var(--soft)"
                  fillOpacity={SECOND_OPACITY}
                />
              ) : null}
            </g>
          ))}
        </svg>
        <Values values={bars.map(({ value }) => value)} unit={unit} />
        {hasSecond ? <Values values={bars.map(({ second }) => second)} unit={unit} isSoft /> : null}
      </div>
    </>
  );
}

interface ValuesProps extends Pick<Chart, 'unit'> {
  readonly values: readonly (number | undefined)[];
  readonly isSoft?: boolean;
}

/** What the bars come to, each beside its own. */
function Values({ values, unit, isSoft = false }: ValuesProps) {
  return (
    <ol className={`shrink-0 text-right font-mono ${isSoft ? 'text-soft' : ''}`}>
      {values.map((value, place) => (
        <li
          // biome-ignore lint/suspicious/noArrayIndexKey: a value has no name but its place.
          key={place}
          title={unit === 'bytes' ? formatExactBytes(value) : undefined}
          style={{ height: BAR_PX }}
          className="flex items-center justify-end whitespace-nowrap"
        >
          {FORMATS[unit](value)}
        </li>
      ))}
    </ol>
  );
}

function ByteLegend() {
  return (
    <p className="mb-1 flex gap-4 text-[12px] text-soft">
      <Swatch fill="var(--net)" opacity={1} name="on the wire" />
      <Swatch fill="var(--soft)" opacity={SECOND_OPACITY} name="decoded" />
    </p>
  );
}
