import { type Difference, type ExchangeComparison, PARTS } from '#core/compare';
import { formatCount, formatPlural } from '#core/wording';

interface DifferencesProps {
  readonly comparison: ExchangeComparison;
  /** What the two are called in the heads of the tables. */
  readonly here: string;
  readonly there: string;
}

/** What differs between two exchanges, part by part, and how much is the same. */
export function Differences({ comparison, here, there }: DifferencesProps) {
  const { notHad } = comparison;
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
      {notHad.length === 0 ? null : (
        <p className="text-[12px] text-soft">Only one of the two has {notHad.join(', ')}: nothing is said of that.</p>
      )}
      {comparison.leftOut > 0 ? (
        <p className="text-soft">{formatPlural(comparison.leftOut, 'other difference')} left out</p>
      ) : null}
    </>
  );
}

interface DifferenceTableProps {
  readonly rows: readonly Difference[];
  readonly here: string;
  readonly there: string;
}

function DifferenceTable({ rows, here, there }: DifferenceTableProps) {
  return (
    <table className="w-full table-fixed border-collapse font-mono text-[12px]">
      <thead className="sr-only">
        <tr>
          <th scope="col">field</th>
          <th scope="col">{here}</th>
          <th scope="col">{there}</th>
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
