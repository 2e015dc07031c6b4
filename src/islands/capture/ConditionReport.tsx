import { formatPlural } from '#core/wording';
import { LaterDialogs } from '../ui/LaterDialogs';
import { later } from '../ui/later';
import { useOpening } from '../ui/use-opening';
import type { ConditionReportProps } from './ConditionDialog';

const ConditionDialog = later(() => import('./ConditionDialog'));

/** The capture's own condition: what was checked, what it cannot answer, and what to do about it. */
export function ConditionReport({ overview }: ConditionReportProps) {
  const { opening, open, onClosed } = useOpening();
  const { condition, fine } = overview;
  if (condition.length + fine.length === 0) return null;
  return (
    <>
      <button
        type="button"
        id="condition"
        aria-haspopup="dialog"
        onClick={open}
        className="min-h-6 shrink-0 text-soft underline hover:text-ink"
      >
        {condition.length === 0 ? 'Condition: fine' : `${formatPlural(condition.length, 'remark')} on this capture`}
      </button>
      <LaterDialogs of={opening}>
        {opening === undefined ? null : (
          <ConditionDialog key={opening} overview={overview} onClose={() => onClosed(opening)} />
        )}
      </LaterDialogs>
    </>
  );
}
