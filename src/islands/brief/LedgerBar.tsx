import { nameHost } from '#core/analysis';
import type { Ledger, Sides } from '#core/brief';
import { PHASES } from '#core/model';
import { formatMs, PHASE_NAME, wholeShares } from '#core/wording';
import { Term } from '../ui/Term';

interface LedgerBarProps {
  readonly ledger: Ledger;
  readonly wholeMs: number;
}

/** Tones of the bar, the darkest for waiting on a server; gaps are hatched, so that they read without colour. */
const TONES: Readonly<Record<string, string>> = {
  blockedMs: 'fill-soft opacity-40',
  dnsMs: 'fill-soft opacity-50',
  connectMs: 'fill-soft opacity-60',
  tlsMs: 'fill-soft opacity-70',
  sendMs: 'fill-soft opacity-80',
  waitMs: 'fill-net',
  receiveMs: 'fill-net opacity-60',
  unknown: 'fill-grid',
  pause: 'fill-redirect opacity-60',
};

/** Parts whose entry in the reference has another name. */
const TERMS: Readonly<Record<string, string>> = { pause: 'retry pause', gap: 'gap' };

/**
 * Where the time went: it adds up to the load exactly. Front end, network or server is answered in numbers below it.
 * Long because it is one drawing, whose parts share one scale.
 */
export function LedgerBar({ ledger, wholeMs }: LedgerBarProps) {
  const parts = [
    ...PHASES.map((phase) => ({ key: phase as string, word: PHASE_NAME[phase], ms: ledger.phases[phase] })),
    { key: 'unknown', word: 'no timing breakdown recorded', ms: ledger.unknownMs },
    { key: 'pause', word: 'waiting to retry', ms: ledger.retryPauseMs },
    { key: 'gap', word: 'gaps', ms: ledger.gapMs },
  ].filter(({ ms }) => ms > 0);
  let at = 0;
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
              fill={key === 'gap' ? 'url(#hatch)' : undefined}
              className={TONES[key] ?? ''}
            />
          );
        })}
      </svg>
      <dl className="mt-1 flex flex-wrap gap-x-5 text-[13px]">
        {parts.map(({ key, word, ms }) => (
          <div key={key} className="flex gap-1.5">
            <dt className="text-soft">{key === 'unknown' ? word : <Term name={TERMS[key]}>{word}</Term>}</dt>
            <dd className="font-mono font-semibold">{formatMs(ms)}</dd>
          </div>
        ))}
      </dl>
      <SidesLine ledger={ledger} wholeMs={wholeMs} />
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
              wait
            </th>
          </tr>
        </thead>
        <tbody>
          {ledger.byHost.slice(0, 8).map(({ host, ms, waitMs }) => (
            <tr key={host} className="border-grid border-t">
              <td className="truncate">{nameHost(host)}</td>
              <td className="text-right font-mono">{formatMs(ms)}</td>
              <td className="text-right font-mono">{formatMs(waitMs)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

const SIDES: readonly (readonly [keyof Sides, string])[] = [
  ['gapMs', 'gaps'],
  ['pauseMs', 'waiting to retry'],
  ['browserMs', 'from cache or service worker'],
  ['connectionMs', 'connection, about'],
  ['serverMs', 'server, about'],
  ['unknownMs', 'no timing breakdown recorded'],
];

/** What gaps, connection and server took, in shares that come to 100 %. A wait is the server's but for one round trip. */
function SidesLine({ ledger, wholeMs }: LedgerBarProps) {
  const parts = SIDES.map(([key, word]) => ({ word, ms: ledger.sides[key] })).filter(({ ms }) => ms > 0);
  const shares = wholeShares(parts.map(({ ms }) => ms));
  return (
    <p
      className="mt-2 text-[13px]"
      data-sides
      title="Of each wait one round trip counts as the connection’s: the shortest connect or wait of its host."
    >
      {parts.map(({ word }, at) => (
        <span key={word}>
          {at === 0 ? '' : ', '}
          {word} <b className="font-semibold">{shares[at]} %</b>
        </span>
      ))}
      {ledger.byParty.third > 0
        ? `; ${formatMs(ledger.byParty.third)} of the ${formatMs(wholeMs)} in exchanges with third parties`
        : ''}
      .
    </p>
  );
}
