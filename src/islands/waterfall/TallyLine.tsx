import { savedShare, type Tally } from '#core/analysis';
import type { Milestone } from '#core/model';
import { formatBytes, formatCount, formatExactBytes, formatMs, formatShare } from '#core/wording';

interface TallyLineProps {
  readonly sums: Tally;
  readonly milestones: readonly Milestone[];
}

/** The sums of what is shown. Milestones that the recorder never saw are said to be unknown. */
export function TallyLine({ sums, milestones }: TallyLineProps) {
  const at = (id: Milestone['id']): number | undefined => milestones.find((milestone) => milestone.id === id)?.atMs;
  return (
    <p
      className="flex h-8 shrink-0 items-center gap-5 overflow-hidden whitespace-nowrap border-line border-b bg-paper px-4 text-soft"
      data-tally
    >
      <span>
        <b className="text-ink">{formatCount(sums.exchanges)}</b> exchanges
      </span>
      <span title={`${formatExactBytes(sums.wireBytes)} of ${formatExactBytes(sums.bodyBytes)}`}>
        <b className="text-ink">{formatBytes(sums.wireBytes)}</b> over the wire of{' '}
        <b className="text-ink">{formatBytes(sums.bodyBytes)}</b>
      </span>
      <span>
        <b className="text-ink">{formatShare(savedShare(sums))}</b> from cache
      </span>
      <span className={sums.failed === 0 ? '' : 'text-failed'}>
        <b>{formatCount(sums.failed)}</b> failed
      </span>
      <span>
        DOM ready <b className="text-ink">{formatMs(at('domReady'))}</b>
      </span>
      <span>
        loaded <b className="text-ink">{formatMs(at('loaded'))}</b>
      </span>
    </p>
  );
}
