import { useCallback, useEffect, useRef } from 'react';
import { type Difference, type ExchangeComparison, PARTS } from '#core/compare';
import { formatCount, formatPlural } from '#core/wording';
import { fetchComparison } from '../state/api';
import { Button } from '../ui/Button';
import { useFetched } from '../ui/use-fetched';

interface ComparisonProps {
  readonly captureId: string;
  readonly here: number;
  readonly there: number;
  readonly onClose: () => void;
}

/** This exchange compared with another, part by part: what differs, and how much is the same. */
export function Comparison({ captureId, here, there, onClose }: ComparisonProps) {
  const frame = useRef<HTMLElement>(null);
  const fetchIt = useCallback(() => fetchComparison(captureId, here, there), [captureId, here, there]);
  const [fetched] = useFetched(fetchIt);
  const isThere = fetched.state === 'there';
  useEffect(() => {
    if (isThere) frame.current?.scrollIntoView({ block: 'nearest' });
  }, [isThere]);
  return (
    <section ref={frame} aria-label={`Compared with #${there}`} className="mt-3 border border-line p-2">
      <p className="mb-1 flex items-center justify-between">
        <b className="font-semibold">
          #{here} compared with #{there}
        </b>
        <Button onClick={onClose}>Close</Button>
      </p>
      {fetched.state === 'loading' ? <p className="text-soft">Comparing</p> : null}
      {fetched.state === 'failed' ? <p className="text-failed">{fetched.problem.sentence}</p> : null}
      {fetched.state === 'there' ? <Differences comparison={fetched.value} here={here} there={there} /> : null}
    </section>
  );
}

interface DifferencesProps {
  readonly comparison: ExchangeComparison;
  readonly here: number;
  readonly there: number;
}

function Differences({ comparison, here, there }: DifferencesProps) {
  return (
    <>
      {PARTS.map((part) => {
        const differing = comparison.differences.filter((one) => one.part === part);
        const same = comparison.same[part] ?? 0;
        if (differing.length === 0 && same === 0) return null;
        return (
          <div key={part} data-compared-part={part} className="mb-2">
            <p className="text-[12px] text-soft">
              {part}:{' '}
              {differing.length === 0
                ? 'the same'
                : `${formatPlural(differing.length, 'field')} ${differing.length === 1 ? 'differs' : 'differ'}`}
              {same > 0 && differing.length > 0 ? `, ${formatCount(same)} the same` : ''}
            </p>
            {differing.length === 0 ? null : <DifferenceTable rows={differing} here={here} there={there} />}
          </div>
        );
      })}
      {comparison.leftOut > 0 ? (
        <p className="text-soft">{formatPlural(comparison.leftOut, 'other difference')} left out</p>
      ) : null}
    </>
  );
}

interface DifferenceTableProps {
  readonly rows: readonly Difference[];
  readonly here: number;
  readonly there: number;
}

function DifferenceTable({ rows, here, there }: DifferenceTableProps) {
  return (
    <table className="w-full table-fixed border-collapse font-mono text-[12px]">
      <thead className="sr-only">
        <tr>
          <th scope="col">field</th>
          <th scope="col">#{here}</th>
          <th scope="col">#{there}</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ name, here: a, there: b }) => (
          <tr key={name} className="border-grid border-t align-top">
            <th scope="row" className="w-1/4 break-words pr-2 text-left font-normal text-soft">
              {name}
            </th>
            <DifferenceCell value={a} />
            <DifferenceCell value={b} />
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const DifferenceCell = ({ value }: { readonly value: string | undefined }) => (
  <td className="max-h-40 overflow-hidden whitespace-pre-wrap break-words pr-2">
    {value === undefined ? <i className="text-soft">none</i> : value}
  </td>
);
