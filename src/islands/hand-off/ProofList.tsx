import type { ProofLine } from '#core/redact';
import { isProven } from '#core/redact';
import { HAND_OFF_PHASES, type HandOffProgress } from '#core/wire';
import { formatShare } from '#core/wording';
import { Button } from '../ui/Button';
import type { MakingState } from './use-making';

const PHASE_WORDS: Record<(typeof HAND_OFF_PHASES)[number], string> = {
  finding: 'Looking for secrets',
  writing: 'Inking them out',
  proving: 'Reading again what would leave',
};

/** What was proven of what would leave, or how far its making is. */
export function ProofList({ streamed, again, cancel }: MakingState) {
  switch (streamed.state) {
    case 'making':
      return <Progress progress={streamed.progress} cancel={cancel} />;
    case 'failed':
      return (
        <div role="alert" className="border-failed border-l-2 pl-3">
          <p className="font-semibold">{streamed.problem.sentence}</p>
          <p className="text-soft">{streamed.problem.advice}</p>
          <p className="mt-2">
            <Button onClick={again}>Try again</Button>
          </p>
        </div>
      );
    case 'cancelled':
      return (
        <p>
          Cancelled: nothing is ready to leave. <Button onClick={again}>Make it</Button>
        </p>
      );
    case 'made':
      return <ProofLines lines={streamed.value.proof} />;
    default:
      return streamed satisfies never;
  }
}

function Progress({
  progress,
  cancel,
}: {
  readonly progress: Extract<HandOffProgress, { type: 'progress' }> | undefined;
  readonly cancel: () => void;
}) {
  const { phase = 'finding', share = 0 } = progress ?? {};
  const done = (HAND_OFF_PHASES.indexOf(phase) + share) / HAND_OFF_PHASES.length;
  return (
    <div className="flex items-center gap-3">
      <p role="status" className="text-soft">
        {PHASE_WORDS[phase]}
      </p>
      <progress
        aria-label="Making what leaves"
        value={done}
        className="h-1.5 flex-1 appearance-none bg-grid [&::-moz-progress-bar]:bg-ink [&::-webkit-progress-bar]:bg-grid [&::-webkit-progress-value]:bg-ink"
        title={formatShare(done)}
      />
      <button type="button" onClick={cancel} className="text-[13px] text-soft underline hover:text-ink">
        cancel
      </button>
    </div>
  );
}

/** A proof, a line for each thing that was looked at. */
export function ProofLines({ lines }: { readonly lines: readonly ProofLine[] }) {
  const holds = isProven(lines);
  return (
    <div role="status">
      <p className={`font-bold ${holds ? '' : 'text-failed'}`}>
        {holds ? 'Proven: it may leave.' : 'Not proven: nothing leaves.'}
      </p>
      {holds ? null : <p>Undo what was inked out last, or leave what the proof names.</p>}
      <ul className="mt-1 space-y-0.5">
        {lines.map((line) => (
          <li key={line.sentence} className="flex gap-2">
            <svg
              width="14"
              height="14"
              viewBox="0 0 14 14"
              aria-hidden="true"
              className="mt-0.5 shrink-0 fill-none stroke-2"
            >
              {line.holds ? (
                <path d="M2 7l4 4l6 -8" className="stroke-cached" />
              ) : (
                <path d="M3 3l8 8M11 3l-8 8" className="stroke-failed" />
              )}
            </svg>
            <div className="min-w-0">
              <p className="first-letter:uppercase">{line.holds ? line.sentence : `Does not hold: ${line.sentence}`}</p>
              {line.details.map((detail) => (
                <p key={detail} className="text-soft [overflow-wrap:anywhere]">
                  {detail}
                </p>
              ))}
            </div>
          </li>
        ))}
      </ul>
    </div>
  );
}
