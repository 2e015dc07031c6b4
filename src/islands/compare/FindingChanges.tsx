import type { LoadComparison } from '#core/compare';
import { formatCost, formatPlural } from '#core/wording';

const CHANGE_WORDS = { gone: 'gone', new: 'new', changed: 'changed', same: 'the same' } as const;

/** Findings that are gone, new or changed. */
export function FindingChanges({ drawn }: { readonly drawn: LoadComparison }) {
  const { findings } = drawn;
  if (findings === undefined) return <p>Bodies are still being read; findings come by themselves.</p>;
  const changed = findings.filter(({ change }) => change !== 'same');
  const same = findings.length - changed.length;
  return (
    <>
      <table className="w-full table-fixed">
        <tbody>
          {changed.map(({ change, a, b }) => (
            <tr key={`${change} ${(b ?? a)?.claim} ${a?.claim}`} className="border-grid border-t align-top">
              <th scope="row" className="w-20 text-left font-semibold">
                {CHANGE_WORDS[change]}
              </th>
              <td>
                {(b ?? a)?.claim}
                {change === 'changed' && a?.claim !== b?.claim ? (
                  <span className="text-soft"> (A: {a?.claim})</span>
                ) : null}
              </td>
              <td className="w-52 text-right text-soft">{costWords(a?.cost, b?.cost)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1 text-soft">
        {changed.length === 0 ? 'No finding is gone, new or changed; ' : ''}
        {formatPlural(same, 'finding')} {same === 1 ? 'is' : 'are'} the same in both.
      </p>
    </>
  );
}

type Cost = Parameters<typeof formatCost>[0];

function costWords(a: Cost | undefined, b: Cost | undefined): string {
  const [own, other] = [a, b].map((cost) => (cost === undefined ? '' : formatCost(cost)));
  return own !== '' && other !== '' && own !== other ? `${own} → ${other}` : ((other || own) ?? '');
}
