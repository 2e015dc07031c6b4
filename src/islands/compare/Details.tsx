import type { ReactNode } from 'react';
import { useState } from 'react';
import { nameExchange } from '#core/analysis';
import {
  type LoadComparison,
  nameCauses,
  tellCause,
  tellConnections,
  tellVisits,
  whyFetchedAgain,
} from '#core/compare';
import { formatBytes, formatCost, formatCount, formatMs, formatPlural } from '#core/wording';
import { goTo } from '../state/address';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { HostsField } from './HostsField';
import { LoadsOfSides } from './LoadsOfSides';
import { findSplit, SPLITS, type SplitId } from './ledger-steps';
import { keyOfPair } from './pairs';
import { signedBytes, signedMs, toneOf } from './signed';
import type { ShownSides } from './use-compared';

/** What can be opened between the difference and the pairs. */
const PARTS = {
  causes: { label: 'What made it', key: '1' },
  findings: { label: 'Findings', key: '2' },
  sums: { label: 'Sums', key: '3' },
  cache: { label: 'Cache', key: '4' },
  connection: { label: 'Connection', key: '5' },
  loads: { label: 'Loads and hosts', key: '6' },
} as const;
type PartId = keyof typeof PARTS;

interface DetailsProps {
  readonly shown: ShownSides;
  readonly split: string | undefined;
}

/** What else there is to say of two loads, each part opened where it is asked for. */
export function Details({ shown, split }: DetailsProps) {
  const [open, setOpen] = useState<PartId>();
  const { drawn } = shown.compared;
  const counts: Partial<Record<PartId, string>> = {
    causes: drawn.causes === undefined ? '' : String(drawn.causes.causes.length),
    findings:
      drawn.findings === undefined ? '…' : String(drawn.findings.filter(({ change }) => change !== 'same').length),
  };
  return (
    <section aria-label="More about the difference" className="border-line border-t">
      <div className="flex flex-wrap gap-2 px-4 py-1.5">
        {(Object.keys(PARTS) as PartId[]).map((id) => (
          <Button
            key={id}
            isMain={open === id}
            action={{ id: `part-${id}`, label: `Show or hide: ${PARTS[id].label}`, keys: [PARTS[id].key] }}
            onClick={() => setOpen(open === id ? undefined : id)}
          >
            {PARTS[id].label}
            {counts[id] === undefined || counts[id] === '' ? '' : ` ${counts[id]}`}
          </Button>
        ))}
        <span className="flex-1" />
        <Choice
          action={{ id: 'split', label: 'Choose by what the difference is split', keys: ['u'] }}
          label="Split the difference by"
          before="split by"
          value={findSplit(split)}
          options={Object.entries(SPLITS) as [SplitId, string][]}
          onChoose={(chosen) => goTo({ split: chosen === 'phase' ? undefined : chosen })}
        />
      </div>
      {open === undefined ? null : (
        // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
        <div
          tabIndex={0}
          className="max-h-72 overflow-auto border-line border-t bg-sheet px-4 py-2 text-[13px]"
          data-part={open}
        >
          <Part id={open} shown={shown} />
        </div>
      )}
    </section>
  );
}

function Part({ id, shown }: { readonly id: PartId; readonly shown: ShownSides }): ReactNode {
  const { drawn } = shown.compared;
  switch (id) {
    case 'causes':
      return <CauseList shown={shown} />;
    case 'findings':
      return <FindingChanges drawn={drawn} />;
    case 'sums':
      return <SumTables drawn={drawn} />;
    case 'cache':
      return <CachePart shown={shown} />;
    case 'connection':
      return <ConnectionPart drawn={drawn} />;
    case 'loads':
      return (
        <>
          <LoadsOfSides shown={shown} />
          <HostsField />
        </>
      );
    default:
      return id satisfies never;
  }
}

function CauseList({ shown }: { readonly shown: ShownSides }) {
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
                <th scope="row" className="w-72 truncate text-left font-semibold" title={name}>
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

const CHANGE_WORDS = { gone: 'gone', new: 'new', changed: 'changed', same: 'the same' } as const;

function FindingChanges({ drawn }: { readonly drawn: LoadComparison }) {
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

function SumTables({ drawn }: { readonly drawn: LoadComparison }) {
  const { sums } = drawn;
  const lists = [
    ['all', sums.whole],
    ['by kind', sums.byKind],
    ['by source', sums.bySource],
    ['by protocol', sums.byProtocol],
  ] as const;
  return (
    <div className="flex flex-wrap gap-x-10 gap-y-3">
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

function CachePart({ shown }: { readonly shown: ShownSides }) {
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

function ConnectionPart({ drawn }: { readonly drawn: LoadComparison }) {
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
