import { type LoadComparison, tellConnections } from '#core/compare';
import { formatBytes, formatMs } from '#core/wording';

/** The connections of both loads, and how much of the difference they alone make. */
export function ConnectionPart({ drawn }: { readonly drawn: LoadComparison }) {
  const { connections } = drawn;
  const told = tellConnections(drawn);
  const rate = (bytesPerMs: number | undefined): string =>
    bytesPerMs === undefined ? 'unknown' : `${formatBytes(bytesPerMs * 1000)} in a second`;
  return (
    <>
      {told.length === 0 ? (
        <p>Nothing in the two loads shows that their connections to the network differ.</p>
      ) : (
        told.map((sentence) => <p key={sentence}>{sentence}</p>)
      )}
      <table className="mt-2">
        <thead className="text-soft">
          <tr>
            <th scope="col" className="pr-6 text-left font-normal">
              the way there and back
            </th>
            <th scope="col" className="pl-4 text-right font-normal">
              A
            </th>
            <th scope="col" className="pl-4 text-right font-normal">
              B
            </th>
          </tr>
        </thead>
        <tbody>
          {connections.trips.map(({ host, aMs, bMs }) => (
            <tr key={host} className="border-grid border-t">
              <th scope="row" className="pr-6 text-left font-normal">
                {host}
              </th>
              <td className="pl-4 text-right font-mono">{formatMs(aMs)}</td>
              <td className="pl-4 text-right font-mono">{formatMs(bMs)}</td>
            </tr>
          ))}
          <tr className="border-grid border-t">
            <th scope="row" className="pr-6 text-left font-normal">
              most that came, over half a second
            </th>
            <td className="pl-4 text-right font-mono">{rate(connections.rate.a)}</td>
            <td className="pl-4 text-right font-mono">{rate(connections.rate.b)}</td>
          </tr>
        </tbody>
      </table>
    </>
  );
}
