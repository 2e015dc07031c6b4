import type { Ledger } from '#core/brief';
import { PHASES } from '#core/model';
import { formatMs, formatShare, PHASE_NAME } from '#core/wording';

interface LedgerBarProps {
  readonly ledger: Ledger;
  readonly wholeMs: number;
}

/** Tones of the bar, the darkest for waiting on a server; browser work is hatched, so that it reads without colour. */
const TONES: Readonly<Record<string, string>> = {
  heldMs: 'fill-soft opacity-40',
  lookupMs: 'fill-soft opacity-50',
  connectMs: 'fill-soft opacity-60',
  secureMs: 'fill-soft opacity-70',
  sendMs: 'fill-soft opacity-80',
  waitMs: 'fill-net',
  downloadMs: 'fill-net opacity-60',
  unknown: 'fill-grid',
};

/**
 * Where the time went: it adds up to the load exactly. Front end, network or server is answered in numbers below it.
 * Long because it is one drawing, whose parts share one scale.
 */
export function LedgerBar({ ledger, wholeMs }: LedgerBarProps) {
  const parts = [
    ...PHASES.map((phase) => ({ key: phase as string, word: PHASE_NAME[phase], ms: ledger.phases[phase] })),
    { key: 'unknown', word: 'phases unknown', ms: ledger.unknownMs },
    { key: 'browser', word: 'browser at work', ms: ledger.browserMs },
  ].filter(({ ms }) => ms > 0);
  let at = 0;
  const network = PHASES.filter((phase) => phase !== 'waitMs').reduce((sum, phase) => sum + ledger.phases[phase], 0);
  const share = (ms: number): string => formatShare(wholeMs === 0 ? undefined : ms / wholeMs);
  return (
    <>
      <svg
        viewBox="0 0 1000 24"
        preserveAspectRatio="none"
        role="img"
        aria-label={`Where ${formatMs(wholeMs)} went`}
        className="block h-6 w-full"
      >
        <defs>
          <pattern id="hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="6" height="6" className="fill-paper" />
            <line x1="0" y1="0" x2="0" y2="6" className="stroke-2 stroke-soft" />
          </pattern>
        </defs>
        {parts.map(({ key, ms }) => {
          const x = (at / wholeMs) * 1000;
          at += ms;
          return (
            <rect
              key={key}
              x={x}
              y={0}
              width={Math.max(0.5, (ms / wholeMs) * 1000 - 1)}
              height={24}
              fill={key === 'browser' ? 'url(#hatch)' : undefined}
              className={TONES[key] ?? ''}
            />
          );
        })}
      </svg>
      <dl className="mt-1 flex flex-wrap gap-x-5 text-[13px]">
        {parts.map(({ key, word, ms }) => (
          <div key={key} className="flex gap-1.5">
            <dt className="text-soft">{word}</dt>
            <dd className="font-mono font-semibold">{formatMs(ms)}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-2 text-[13px]">
        Front end <b className="font-semibold">{share(ledger.browserMs)}</b>, network{' '}
        <b className="font-semibold">{share(network)}</b>, server{' '}
        <b className="font-semibold">{share(ledger.phases.waitMs)}</b>
        {ledger.byParty.third > 0 ? `; third parties held ${formatMs(ledger.byParty.third)} of it` : ''}.
      </p>
      <table className="mt-2 w-full text-[13px]">
        <thead className="text-left text-soft">
          <tr>
            <th scope="col" className="font-normal">
              on the route by host
            </th>
            <th scope="col" className="text-right font-normal">
              in all
            </th>
            <th scope="col" className="text-right font-normal">
              server wait
            </th>
          </tr>
        </thead>
        <tbody>
          {ledger.byHost.slice(0, 8).map(({ host, ms, waitMs }) => (
            <tr key={host} className="border-grid border-t">
              <td className="truncate">{host}</td>
              <td className="text-right font-mono">{formatMs(ms)}</td>
              <td className="text-right font-mono">{formatMs(waitMs)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
