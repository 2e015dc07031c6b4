import type { CaptureCard } from '#core/wire';
import { formatPlural } from '#core/wording';

interface ConditionReportProps {
  readonly report: CaptureCard['overview']['condition'];
}

/** The capture's own condition: what it cannot answer, and what to do about it. Says nothing where all is well. */
export function ConditionReport({ report }: ConditionReportProps) {
  if (report.length === 0) return null;
  return (
    <details className="relative shrink-0">
      <summary className="text-soft hover:text-ink">{formatPlural(report.length, 'remark')} on its condition</summary>
      <ul className="absolute top-7 left-0 z-30 w-130 border border-ink bg-sheet p-4">
        {report.map(({ id, sentence, advice }) => (
          <li key={id} className="border-line border-b py-2 first:pt-0 last:border-0 last:pb-0">
            <p className="font-semibold">{sentence}</p>
            <p className="text-soft">{advice}</p>
          </li>
        ))}
      </ul>
    </details>
  );
}
