import { useMemo } from 'react';
import { type Cause, nameCauses, tellCause } from '#core/compare';
import { formatMs, signedWholeMs } from '#core/wording';
import { goTo } from '../state/address';
import { CopyButton } from '../ui/CopyButton';
import { tableAsText } from '../ui/table-text';
import { stepTable } from './compare-tables';
import { findSplit, ledgerSteps, wholeMsOf } from './ledger-steps';
import { keyOfPair } from './pairs';
import { toneOf } from './tone';
import type { ShownSides } from './use-compared';

const ROW_PX = 18;
const BAR_PX = 13;

interface LedgerStepsProps {
  readonly shown: ShownSides;
  readonly split: string | undefined;
}

/**
 * The difference of two loads as steps from the one to the other, which add up to it exactly. A step that an exchange made
 * leads to its pair. Long because it is one drawing, whose bars share one scale.
 */
export function LedgerSteps({ shown, split }: LedgerStepsProps) {
  const { a, b, compared } = shown;
  const { drawn } = compared;
  const id = findSplit(split);
  const steps = useMemo(() => ledgerSteps(drawn, id, nameCauses(drawn.causes, a.rowOf, b.rowOf)), [drawn, id, a, b]);
  const { ledger } = drawn;
  if (ledger === undefined) return null;
  const mostMs = Math.max(ledger.aMs, ledger.bMs, ...steps.map(({ fromMs, ms }) => Math.max(fromMs, fromMs + ms)), 1);
  const whole = wholeMsOf(steps.map(({ ms }) => ms));
  const xOf = (ms: number): string => `${(Math.max(0, ms) / mostMs) * 100}%`;
  return (
    <section aria-label="The difference" className="relative px-4 py-2">
      <span className="absolute top-2 right-4 z-10">
        <CopyButton label="Copy the difference as text" text={() => tableAsText(stepTable(shown, steps, whole))} />
      </span>
      <table className="w-full table-fixed border-collapse text-[13px]" data-ledger={id}>
        <colgroup>
          <col className="w-76" />
          <col />
          <col className="w-32" />
        </colgroup>
        <thead className="sr-only">
          <tr>
            <th scope="col">what</th>
            <th scope="col">drawing</th>
            <th scope="col">time</th>
          </tr>
        </thead>
        <tbody>
          <Bar
            label="A"
            words={a.drawn.name}
            fromMs={0}
            ms={ledger.aMs}
            xOf={xOf}
            value={formatMs(ledger.aMs)}
            isWhole
          />
          {steps.map((step, at) =>
            whole[at] === 0 && step.key === 'rest' ? null : (
              <Bar
                key={step.key}
                label={step.label}
                words={step.cause === undefined ? '' : tellCause(step.cause, a.rowOf, b.rowOf)}
                fromMs={step.fromMs}
                ms={step.ms}
                xOf={xOf}
                value={signedWholeMs(whole[at] ?? 0)}
                tone={toneOf(whole[at] ?? 0)}
                cause={step.cause}
              />
            ),
          )}
          <Bar
            label="B"
            words={b.drawn.name}
            fromMs={0}
            ms={ledger.bMs}
            xOf={xOf}
            value={formatMs(ledger.bMs)}
            isWhole
          />
        </tbody>
      </table>
    </section>
  );
}

interface BarProps {
  readonly label: string;
  readonly words: string;
  readonly fromMs: number;
  readonly ms: number;
  readonly xOf: (ms: number) => string;
  readonly value: string;
  readonly tone?: string;
  readonly isWhole?: boolean;
  readonly cause?: Cause | undefined;
}

function Bar({ label, words, fromMs, ms, xOf, value, tone = '', isWhole = false, cause }: BarProps) {
  const [low, high] = [Math.min(fromMs, fromMs + ms), Math.max(fromMs, fromMs + ms)];
  const look = isWhole ? 'fill-net/40 stroke-net' : ms < 0 ? 'fill-none stroke-cached' : 'fill-none stroke-failed';
  const [only] = cause?.played ?? [];
  return (
    <tr style={{ height: ROW_PX }}>
      <th
        scope="row"
        className={`truncate pr-3 text-right ${isWhole ? 'font-bold' : 'font-normal'}`}
        title={words === '' ? label : `${label}: ${words}`}
      >
        {only === undefined ? (
          <>
            {label}
            {isWhole ? <span className="pl-2 font-normal text-soft">{words}</span> : null}
          </>
        ) : (
          <button
            type="button"
            className="max-w-full truncate hover:underline"
            onClick={() => goTo({ pair: keyOfPair(only), isOpen: true, filter: '' })}
          >
            {label}
          </button>
        )}
      </th>
      <td className="p-0">
        <svg width="100%" height={ROW_PX} aria-hidden="true" className="block overflow-visible">
          <rect
            x={xOf(low)}
            y={(ROW_PX - BAR_PX) / 2}
            width={`max(1.5px, calc(${xOf(high)} - ${xOf(low)}))`}
            height={BAR_PX}
            strokeWidth={1.5}
            className={look}
            style={{ width: `max(1.5px, calc(${xOf(high)} - ${xOf(low)}))` }}
          />
        </svg>
      </td>
      <td className={`pl-3 font-mono text-[12px] ${tone}`}>{value}</td>
    </tr>
  );
}
