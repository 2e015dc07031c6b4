import { memo } from 'react';
import type { OutcomeClass } from '#core/analysis';
import type { Scale } from '#core/chart';
import { addTo } from '#core/collections';
import { OUTCOME_FILL } from '../ui/status';
import type { ChartRow } from './layout';
import { Marks } from './Marks';
import { type Mark, marksOf, STRIP_PX } from './strip-marks';

/** Strips that are drawn together: what scrolls in is drawn in one go, and what is there stays as it is. */
const STRIPS_A_BLOCK = 8;

interface StripBlocksProps {
  readonly rows: readonly ChartRow[];
  readonly scale: Scale;
  readonly lastMs: number;
  readonly onRoute: ReadonlySet<number>;
  /** Rows on screen, [from, to). */
  readonly from: number;
  readonly to: number;
}

/** The stairs and marks of the strips on screen; each strip's own element has its words alone. */
export function StripBlocks({ rows, from, to, ...given }: StripBlocksProps) {
  const first = Math.floor(from / STRIPS_A_BLOCK);
  const count = Math.max(0, Math.ceil(Math.min(to, rows.length) / STRIPS_A_BLOCK) - first);
  // As many as there ever are at once: blocks that leave the screen lend their elements to those that come.
  const slots = Math.ceil((to - from) / STRIPS_A_BLOCK) + 1;
  return Array.from({ length: count }, (_, at) => first + at)
    .sort((one, other) => (one % slots) - (other % slots))
    .map((block) => <Block key={block % slots} block={block} rows={rows} {...given} />);
}

interface BlockProps extends Omit<StripBlocksProps, 'from' | 'to'> {
  readonly block: number;
}

const Block = memo(function Block({ block, rows, scale, lastMs, onRoute }: BlockProps) {
  const from = block * STRIPS_A_BLOCK;
  const own = rows.slice(from, from + STRIPS_A_BLOCK);
  const groups = new Map<string, [Group, ...Group[]]>();
  own.forEach((row, at) => {
    if (row.type === 'lane') return;
    const { outcome, marks } = marksOf(row.placed, scale, lastMs, at * STRIP_PX);
    const isOnRoute = onRoute.has(row.placed.row.index);
    addTo(groups, `${outcome} ${isOnRoute}`, { outcome, isOnRoute, marks });
  });
  return (
    <svg
      width={scale.widthPx}
      height={STRIPS_A_BLOCK * STRIP_PX}
      aria-hidden="true"
      className="absolute left-0 block overflow-hidden"
      style={{ top: from * STRIP_PX }}
      data-stairs={own.length}
    >
      {[...groups].map(([key, [first, ...others]]) => (
        <g key={key} className={OUTCOME_FILL[first.outcome]} data-off-route={first.isOnRoute ? undefined : ''}>
          <Marks marks={[first, ...others].flatMap(({ marks }) => marks)} />
        </g>
      ))}
    </svg>
  );
});

interface Group {
  readonly outcome: OutcomeClass;
  readonly isOnRoute: boolean;
  readonly marks: readonly Mark[];
}
