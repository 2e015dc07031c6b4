import type { ReactNode } from 'react';
import { type Scale, stairsOf } from '#core/chart';
import { NO_PHASES, type PhaseName } from '#core/model';
import { PHASE_NAME } from '#core/wording';
import { Button } from '../ui/Button';
import { OUTCOME_FILL } from '../ui/status';
import { Term } from '../ui/Term';
import type { EndMark } from './geometry';
import { Marks } from './Marks';
import { endMark, sparedMark, stepMarks } from './strip-marks';

const SCALE: Scale = { fromMs: 0, toMs: 400, widthPx: 400 };
const SAMPLE = {
  ...NO_PHASES,
  blockedMs: 45,
  dnsMs: 42,
  connectMs: 52,
  tlsMs: 48,
  sendMs: 8,
  waitMs: 110,
  receiveMs: 95,
};
/** Where each phase's word stands under the sample; sending is too short to be named by itself. */
const NAMED: readonly (readonly [PhaseName, number])[] = [
  ['blockedMs', 0],
  ['dnsMs', 45],
  ['connectMs', 87],
  ['tlsMs', 139],
  ['waitMs', 195],
  ['receiveMs', 305],
];

/**
 * How the drawing is read, told by the drawing itself.
 * Long because it is a list of what the chart shows, an example beside each.
 */
export default function Legend({ onClose }: { readonly onClose: () => void }) {
  return (
    <section
      aria-label="How to read the waterfall"
      className="absolute right-4 bottom-4 z-20 w-[434px] border border-ink bg-sheet p-4"
      data-legend
    >
      <div className="flex items-start justify-between">
        <h3 className="font-bold">Taller steps are later phases: blocked, connection, wait, receive</h3>
        <Button onClick={onClose} hint="l" label="Close the legend">
          Close
        </Button>
      </div>
      <svg
        width={400}
        height={46}
        role="img"
        aria-label="Stairs with their phases named"
        className={`mt-2 ${OUTCOME_FILL.plain}`}
      >
        <Marks marks={stepMarks(stairsOf({ phases: SAMPLE, timeMs: 400 }, 0, SCALE), 0, 0)} />
        {NAMED.map(([phase, x]) => (
          <text key={phase} x={x} y={38} strokeWidth={0} className="fill-ink text-[11px]">
            {PHASE_NAME[phase]}
          </text>
        ))}
      </svg>
      <div className="mt-2 grid grid-cols-2 gap-x-6 gap-y-1.5 text-[12px]">
        <Sample outcome="plain">from the network</Sample>
        <Sample outcome="cached" isSpared>
          from cache, service worker or prefetch (incl. revalidated)
        </Sample>
        <Sample outcome="redirect" mark="hop">
          a redirect, tied to where it led
        </Sample>
        <Sample outcome="failed" mark="failed">
          failed
        </Sample>
        <Sample outcome="failed" mark="torn">
          cut off
        </Sample>
        <Sample outcome="plain" mark="open">
          still open when the recording ended
        </Sample>
        <Sample outcome="plain" isUnphased>
          no timing breakdown recorded
        </Sample>
        <p className="flex items-center gap-2">
          <span className="shrink-0 whitespace-nowrap font-mono text-soft">‹ ›</span> outside the visible range
        </p>
      </div>
      <p className="mt-2 flex items-center gap-2 text-[12px]">
        <svg width={60} height={26} aria-hidden="true" className="shrink-0 fill-none stroke-2 stroke-route">
          <path d="M2 8H22V20H26" />
          <path d="M28 20H40" strokeDasharray="1 4" strokeLinecap="round" />
          <path d="M42 20H58" />
        </svg>
        <span>
          <Term name="route">Route</Term>: the chain of requests that the load waited for; dotted: a <Term>gap</Term>,
          none of them in flight (r next leg, h dims the rest)
        </span>
      </p>
      <p className="mt-3 text-[12px] text-soft">
        Wheel over the band above, or Ctrl and wheel over the strips, to zoom; Shift and wheel to move. Keys: + and -,
        the arrows, z for the selection, Shift+Z for the exchanges shown, 0 for the whole load.
      </p>
    </section>
  );
}

interface SampleProps {
  readonly outcome: keyof typeof OUTCOME_FILL;
  readonly mark?: EndMark;
  readonly isSpared?: boolean;
  readonly isUnphased?: boolean;
  readonly children: ReactNode;
}

function Sample({ outcome, mark, isSpared = false, isUnphased = false, children }: SampleProps) {
  const phases = isUnphased ? NO_PHASES : { ...NO_PHASES, waitMs: 18, receiveMs: 10 };
  return (
    <p className="flex items-center gap-2">
      <svg width={60} height={26} aria-hidden="true" className={`shrink-0 ${OUTCOME_FILL[outcome]}`}>
        <Marks
          marks={[
            ...stepMarks(stairsOf({ phases, timeMs: 28 }, 12, { fromMs: 0, toMs: 60, widthPx: 60 }), 12, 0),
            ...(isSpared ? [sparedMark(12, 0)] : []),
            ...(mark === undefined ? [] : [endMark(mark, 40, 0)]),
          ]}
        />
      </svg>
      {children}
    </p>
  );
}
