import { nameExchange } from '#core/analysis';
import { tellVisits, whyFetchedAgain } from '#core/compare';
import { formatBytes } from '#core/wording';
import { goTo } from '../state/address';
import type { ShownSides } from './use-compared';

/** What a cache spared the later visit, and what it did not. Long because it is the markup of one table. */
export function CachePart({ shown }: { readonly shown: ShownSides }) {
  const { visits } = shown.compared.drawn;
  if (visits === undefined)
    return <p>Neither side shows a visit that took something from the cache that the other one had fetched.</p>;
  const [earlier, later] = visits.earlier === 'a' ? [shown.a, shown.b] : [shown.b, shown.a];
  const nameOf = (index: number): string => {
    const row = earlier.rowOf(index);
    return row === undefined ? `#${index}` : nameExchange(row);
  };
  const keyOf = (own: number, again: number): string =>
    visits.earlier === 'a' ? `${own}-${again}` : `${again}-${own}`;
  return (
    <>
      <p className="mb-1 text-soft">
        Earlier: {earlier.drawn.name}. Later: {later.drawn.name}.
      </p>
      {tellVisits(visits).map((sentence) => (
        <p key={sentence}>{sentence}</p>
      ))}
      <table className="mt-2 w-full table-fixed">
        <tbody>
          {visits.fetchedAgain.map((one) => (
            <tr key={one.later} className="border-grid border-t">
              <th scope="row" className="w-72 truncate text-left font-semibold">
                <button
                  type="button"
                  className="max-w-full truncate hover:underline"
                  onClick={() => goTo({ pair: keyOf(one.earlier, one.later), isOpen: true })}
                >
                  {nameOf(one.earlier)}
                </button>
              </th>
              <td className="w-20 pr-4 text-right font-mono">{formatBytes(one.wireBytes)}</td>
              <td>fetched again: {whyFetchedAgain(one.why)}</td>
            </tr>
          ))}
          {(visits.forecast?.differing ?? []).map((one) => (
            <tr key={`forecast ${one.later}`} className="border-grid border-t">
              <th scope="row" className="w-72 truncate text-left font-semibold">
                <button
                  type="button"
                  className="max-w-full truncate hover:underline"
                  onClick={() => goTo({ pair: keyOf(one.earlier, one.later), isOpen: true })}
                >
                  {nameOf(one.earlier)}
                </button>
              </th>
              <td />
              <td>
                forecast: {one.foretold}; the visit: {one.did}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
