import { CopyButton } from '../ui/CopyButton';
import { tableAsText } from '../ui/table-text';
import { milestoneLines, type SumLine, sumLine, sumTable } from './compare-tables';
import type { ShownSides } from './use-compared';

/** Milestones, and sums of both loads by all that they can be split by. */
export function SumTables({ shown }: { readonly shown: ShownSides }) {
  const { sums } = shown.compared.drawn;
  const milestones = milestoneLines(shown);
  const lists = [
    ['all', sums.whole],
    ['by kind', sums.byKind],
    ['by source', sums.bySource],
    ['by protocol', sums.byProtocol],
  ] as const;
  return (
    <div className="flex flex-wrap items-start gap-x-10 gap-y-3">
      {milestones.length === 0 ? (
        <p>Neither load has a milestone.</p>
      ) : (
        <SumTable title="milestones" lines={milestones} />
      )}
      {lists.map(([title, list]) => (
        <SumTable key={title} title={title} lines={list.map(sumLine)} />
      ))}
    </div>
  );
}

const HEAD = 'pl-4 text-right font-normal';

function SumTable({ title, lines }: { readonly title: string; readonly lines: readonly SumLine[] }) {
  const copied = title === 'milestones' ? 'Milestones' : `Sums, ${title}`;
  return (
    <table>
      <thead className="text-soft">
        <tr>
          <th scope="col" abbr={title} className="pr-4 text-left font-normal">
            {title} <CopyButton label={`Copy as text: ${copied}`} text={() => tableAsText(sumTable(copied, lines))} />
          </th>
          <th scope="col" className={HEAD}>
            A
          </th>
          <th scope="col" className={HEAD}>
            B
          </th>
          <th scope="col" className={HEAD}>
            difference
          </th>
        </tr>
      </thead>
      <tbody>
        {lines.map(({ of, a, b, difference }) => (
          <tr key={of} className="border-grid border-t">
            <th scope="row" className="pr-4 text-left font-normal">
              {of}
            </th>
            <td className="pl-4 text-right font-mono">{a}</td>
            <td className="pl-4 text-right font-mono">{b}</td>
            <td className="pl-4 text-right font-mono">{difference}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
