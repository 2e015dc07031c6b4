import type { ReactNode } from 'react';
import { savedShare, type Tally } from '#core/analysis';
import type { Milestone } from '#core/model';
import { formatBytes, formatCount, formatExactBytes, formatMs, formatPlural, formatShare } from '#core/wording';
import { filterByText } from '../filter/filter-actions';
import { goTo, type Noise } from '../state/address';
import { Term } from '../ui/Term';

interface TallyLineProps {
  /** What the filter, the noise keys and the window leave. */
  readonly shown: Tally;
  /** All exchanges of the page. */
  readonly all: number;
  readonly milestones: readonly Milestone[];
  /** How many each kind of noise that is hidden had. */
  readonly hidden: ReadonlyMap<Noise, number>;
  /** What stands at the right: what the view offers to choose. */
  readonly children?: ReactNode;
}

const NOISE_WORD: Record<Noise, (count: number) => string> = {
  extension: () => 'of extensions',
  report: (count) => (count === 1 ? 'report' : 'reports'),
  third: () => 'third-party',
};

/** The sums of what is shown. Milestones that the recorder never saw are said to be unknown. */
export function TallyLine({ shown, all, milestones, hidden, children }: TallyLineProps) {
  const at = (id: Milestone['id']): number | undefined => milestones.find((milestone) => milestone.id === id)?.atMs;
  const isPart = shown.exchanges !== all;
  return (
    <div className="flex min-h-8 shrink-0 flex-wrap items-center gap-x-4 whitespace-nowrap border-line border-b bg-paper px-4 py-1 text-soft">
      <p className="flex min-w-0 flex-wrap items-center gap-x-4" data-tally>
        <span>
          <b className="text-ink">{formatCount(shown.exchanges)}</b> {isPart ? `of ${formatCount(all)} ` : ''}
          {all === 1 ? 'exchange' : 'exchanges'}
        </span>
        {[...hidden].map(([noise, count]) => (
          <button
            key={noise}
            type="button"
            className="font-semibold text-ink underline"
            title="Show them again"
            onClick={() => goTo({ hidden: [...hidden.keys()].filter((one) => one !== noise) })}
          >
            {formatCount(count)} hidden {NOISE_WORD[noise](count)}
          </button>
        ))}
        <span
          title={`${formatExactBytes(shown.wireBytes)} on the wire, headers and compressed bodies; ${formatExactBytes(shown.bodyBytes)} of bodies decoded`}
        >
          <b className="text-ink">{formatBytes(shown.wireBytes)}</b> <Term>on the wire</Term>,{' '}
          <b className="text-ink">{formatBytes(shown.bodyBytes)}</b> <Term>decoded</Term>
        </span>
        <TallyTerm term="outcome = cached" label="Filter: from cache">
          <b className="text-ink">{formatShare(savedShare(shown))}</b> from cache
        </TallyTerm>
        <TallyTerm
          term="failed"
          label={`Filter: ${formatPlural(shown.failed, 'failed exchange')}`}
          isGrave={shown.failed > 0}
        >
          <b>{formatCount(shown.failed)}</b> failed
        </TallyTerm>
        <span>
          <Term>DOM ready</Term> <b className="text-ink">{formatMs(at('domReady'))}</b>
        </span>
        <span>
          <Term>loaded</Term> <b className="text-ink">{formatMs(at('loaded'))}</b>
        </span>
      </p>
      <span className="ml-auto flex items-center gap-3 text-[13px]">{children}</span>
    </div>
  );
}

interface TallyTermProps {
  readonly term: string;
  readonly label: string;
  readonly isGrave?: boolean;
  readonly children: ReactNode;
}

/** A count that filters by what it counts; pressed again it filters no more. */
function TallyTerm({ term, label, isGrave = false, children }: TallyTermProps) {
  return (
    <button
      type="button"
      title={label}
      onClick={() => filterByText(term)}
      className={`hover:underline ${isGrave ? 'text-failed' : ''}`}
    >
      {children}
    </button>
  );
}
