import { classifyOutcome, type ExchangeRow, type OutcomeClass } from '#core/analysis';

/** Fill, stroke and mark by outcome, as Tailwind classes: one hue each, the same everywhere. */
export const OUTCOME_FILL: Record<OutcomeClass, string> = {
  plain: 'fill-net stroke-net',
  cached: 'fill-cached stroke-cached',
  redirect: 'fill-redirect stroke-redirect',
  failed: 'fill-failed stroke-failed',
};

const MARK_FILL: Record<OutcomeClass, string> = {
  plain: 'bg-net',
  cached: 'bg-cached',
  redirect: 'bg-redirect',
  failed: 'bg-failed',
};

/** The words on a status mark; absent for plain success, which needs no mark. */
export function statusWord(row: Pick<ExchangeRow, 'status' | 'failure' | 'errorInside'>): string | undefined {
  if (row.status === undefined) return 'none';
  if (row.status >= 200 && row.status < 300)
    return row.failure !== undefined ? 'cut' : row.errorInside === undefined ? undefined : 'error inside';
  return String(row.status);
}

/** A status as a filled mark in its outcome's hue. */
export function StatusMark({ row, word }: { readonly row: ExchangeRow; readonly word: string }) {
  const outcome = row.errorInside === undefined ? classifyOutcome(row) : 'failed';
  return <span className={`px-1.5 font-bold font-mono text-[11px] text-on-mark ${MARK_FILL[outcome]}`}>{word}</span>;
}
