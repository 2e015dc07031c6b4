import { nameCauses, tellCause } from '#core/compare';
import { formatPlural, signedMs } from '#core/wording';
import { goTo } from '../state/address';
import { keyOfPair } from './pairs';
import { toneOf } from './tone';
import type { ShownSides } from './use-compared';

/** What made the difference, the dearest first, what is not explained last. Long because it is the markup of one table. */
export function CauseList({ shown }: { readonly shown: ShownSides }) {
  const { a, b, compared } = shown;
  const { causes } = compared.drawn;
  const nameOf = nameCauses(causes, a.rowOf, b.rowOf);
  if (causes === undefined) return <p>One of the loads has no exchange with a start: nothing can be played.</p>;
  return (
    <>
      <p className="mb-1 text-soft">
        The slower load played with one exchange after another as in the quicker one; each step says what it alone
        changed.
      </p>
      <table className="w-full table-fixed">
        <tbody>
          {causes.causes.map((cause) => {
            const [only] = cause.played;
            const name = nameOf(cause);
            return (
              <tr
                key={`${cause.endpoint} ${only === undefined ? '' : keyOfPair(only)}`}
                className="border-grid border-t"
              >
                <td className={`w-24 pr-3 text-right font-mono ${toneOf(cause.ms)}`}>{signedMs(cause.ms)}</td>
                <th scope="row" className="w-72 truncate pr-3 text-left font-semibold" title={name}>
                  <button
                    type="button"
                    className="max-w-full truncate hover:underline"
                    onClick={() => only !== undefined && goTo({ pair: keyOfPair(only), isOpen: true })}
                  >
                    {name}
                  </button>
                </th>
                <td>{tellCause(cause, a.rowOf, b.rowOf)}</td>
              </tr>
            );
          })}
          {Math.abs(causes.others.ms) < 0.05 ? null : (
            <tr className="border-grid border-t">
              <td className="w-24 pr-3 text-right font-mono">{signedMs(causes.others.ms)}</td>
              <th scope="row" className="text-left font-normal">
                {formatPlural(causes.others.exchanges, 'other')} together
              </th>
              <td />
            </tr>
          )}
          <tr className="border-grid border-t">
            <td className="w-24 pr-3 text-right font-mono">{signedMs(causes.notExplainedMs)}</td>
            <th scope="row" className="text-left font-normal">
              not explained
            </th>
            <td>gaps in which the load waited for no exchange</td>
          </tr>
        </tbody>
      </table>
    </>
  );
}
