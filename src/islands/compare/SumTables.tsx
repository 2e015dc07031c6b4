import { formatBytes, formatCount, formatMs } from '#core/wording';
import { signedBytes, signedMs } from './signed';
import type { ShownSides } from './use-compared';

/** Milestones, and sums of both loads by all that they can be split by. Long because it is the markup of one set of tables. */
export function SumTables({ shown }: { readonly shown: ShownSides }) {
  const { sums } = shown.compared.drawn;
  const lists = [
    ['all', sums.whole],
    ['by kind', sums.byKind],
    ['by source', sums.bySource],
    ['by protocol', sums.byProtocol],
  ] as const;
  return (
    <div className="flex flex-wrap gap-x-10 gap-y-3">
      <Milestones shown={shown} />
      {lists.map(([title, list]) => (
        <table key={title}>
          <thead className="text-soft">
            <tr>
              <th scope="col" className="pr-4 text-left font-normal">
                {title}
              </th>
              <th scope="col" className="pl-4 text-right font-normal">
                A
              </th>
              <th scope="col" className="pl-4 text-right font-normal">
                B
              </th>
              <th scope="col" className="pl-4 text-right font-normal">
                difference
              </th>
            </tr>
          </thead>
          <tbody>
            {list.map(({ of, unit, a, b }) => {
              const write = unit === 'bytes' ? formatBytes : (value: number) => formatCount(value);
              const difference = a === undefined || b === undefined ? undefined : b - a;
              const told =
                difference === undefined
                  ? 'unknown'
                  : unit === 'bytes'
                    ? signedBytes(difference)
                    : difference === 0
                      ? '±0'
                      : `${difference > 0 ? '+' : '−'}${formatCount(Math.abs(difference))}`;
              return (
                <tr key={of} className="border-grid border-t">
                  <th scope="row" className="pr-4 text-left font-normal">
                    {of}
                  </th>
                  <td className="pl-4 text-right font-mono">{a === undefined ? 'unknown' : write(a)}</td>
                  <td className="pl-4 text-right font-mono">{b === undefined ? 'unknown' : write(b)}</td>
                  <td className="pl-4 text-right font-mono">{told}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      ))}
    </div>
  );
}

/** When both loads reached what either of them reached. */
function Milestones({ shown: { a, b } }: { readonly shown: ShownSides }) {
  const labels = [...new Set([a, b].flatMap(({ page }) => (page?.milestones ?? []).map(({ label }) => label)))];
  const atMs = ({ page }: ShownSides['a'], label: string): number | undefined =>
    page?.milestones.find((milestone) => milestone.label === label)?.atMs;
  if (labels.length === 0) return <p>Neither load has a milestone.</p>;
  return (
    <table>
      <thead className="text-soft">
        <tr>
          <th scope="col" className="pr-4 text-left font-normal">
            milestones
          </th>
          <th scope="col" className="pl-4 text-right font-normal">
            A
          </th>
          <th scope="col" className="pl-4 text-right font-normal">
            B
          </th>
          <th scope="col" className="pl-4 text-right font-normal">
            difference
          </th>
        </tr>
      </thead>
      <tbody>
        {labels.map((label) => {
          const [own, other] = [atMs(a, label), atMs(b, label)];
          return (
            <tr key={label} className="border-grid border-t">
              <th scope="row" className="pr-4 text-left font-normal">
                {label}
              </th>
              <td className="pl-4 text-right font-mono">{formatMs(own)}</td>
              <td className="pl-4 text-right font-mono">{formatMs(other)}</td>
              <td className="pl-4 text-right font-mono">
                {own === undefined || other === undefined ? 'unknown' : signedMs(other - own)}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
