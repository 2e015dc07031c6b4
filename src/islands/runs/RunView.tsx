import type { KeptDraft } from '#core/sheet';
import type { Run, RunStep } from '#core/wire';
import { formatPlural } from '#core/wording';
import { saveFile } from '../export/save-file';
import { goTo } from '../state/address';
import { exportBodies } from '../state/api';
import { tell } from '../state/notices';
import { Behind } from '../ui/Behind';
import { Button } from '../ui/Button';
import { later } from '../ui/later';
import { Gathered } from './Gathered';
import { RunStrips } from './RunStrips';
import type { Runs } from './use-runs';

const WatchChart = later(() => import('./WatchChart'));

interface RunViewProps {
  readonly captureId: string;
  readonly kept: KeptDraft;
  readonly run: Run;
  readonly runs: Runs;
  readonly zoneMinutes: number;
  /** Puts what a trim left on the sheet, or what was there before. */
  readonly onPut: (run: Run, what: 'needed' | 'before') => void;
}

/** A run as it goes on, and what came of it. */
export function RunView({ captureId, kept, run, runs, zoneMinutes, onPut }: RunViewProps) {
  const { steps } = runs;
  const { order, result, status } = run;
  return (
    <section aria-label={TITLES[order.kind]} className="mt-2">
      <p role="status" className="font-bold text-base leading-5">
        {run.sentence === '' ? 'Beginning' : run.sentence}
      </p>
      <p className="text-[12px] text-soft">{tellProgress(run, steps, runs.isPausing)}</p>
      <RunTools run={run} runs={runs} onPut={onPut} />
      {steps.length === 0 ? null : (
        <RunStrips steps={steps} isGoingOn={status === 'running'} onOpen={(trial) => goTo({ trial, run: run.id })} />
      )}
      {result.trim === undefined ? null : <Needed needed={result.trim.needed} leftOut={result.trim.leftOut} />}
      {result.watch === undefined ? null : (
        <Behind what="the chart">
          <WatchChart steps={steps} subject={result.watch.subject} zoneMinutes={zoneMinutes} />
        </Behind>
      )}
      {order.kind === 'series' && (result.series?.rows ?? 0) > 0 && status !== 'running' ? (
        <Gathered captureId={captureId} run={run} name={`rows of ${kept.name}`} />
      ) : null}
    </section>
  );
}

/** What can be done with a run as it stands. */
function RunTools({ run, runs, onPut }: Pick<RunViewProps, 'run' | 'runs' | 'onPut'>) {
  const { order, result, status } = run;
  return (
    <>
      {result.question === undefined ? null : (
        <Button onClick={() => runs.begin(order, { private: true })}>Send it there all the same</Button>
      )}
      {result.asksMeasure === true ? (
        <Button onClick={() => order.kind === 'trim' && runs.begin({ ...order, measure: 'now' })}>
          Trim for what it gets now
        </Button>
      ) : null}
      <div className="my-2 flex flex-wrap items-center gap-2">
        {status === 'running' ? (
          <Button
            action={{ id: 'run-pause', label: 'Pause what sends the draft many times', keys: ['q'] }}
            onClick={runs.pause}
          >
            Pause
          </Button>
        ) : null}
        {status === 'paused' ? (
          <Button action={{ id: 'run-go-on', label: 'Go on with what was paused', keys: ['q'] }} onClick={runs.goOn}>
            Go on
          </Button>
        ) : null}
        {result.trim === undefined ? null : (
          <>
            <Button onClick={() => onPut(run, 'needed')}>Only what is needed</Button>
            <Button onClick={() => onPut(run, 'before')}>As it was before</Button>
          </>
        )}
        {run.sends > 0 && status !== 'running' ? (
          <Button onClick={() => location.assign(`/c/${run.id}/waterfall`)}>Open as a capture</Button>
        ) : null}
        {order.kind === 'series' && order.loop.kind === 'files' && status !== 'running' && run.sends > 1 ? (
          <Button onClick={() => void saveFiles(run, runs.steps)}>Save the files as a zip</Button>
        ) : null}
        <Button onClick={runs.drop}>Delete</Button>
      </div>
    </>
  );
}

/** What was downloaded, with the paths that the site has; the response that named it is not among it. */
async function saveFiles(run: Run, steps: readonly RunStep[]): Promise<void> {
  const files = steps.slice(1).filter(({ verdict }) => verdict === 'good');
  const answer = await exportBodies(
    run.id,
    files.map(({ number }) => number),
  );
  if (answer.ok) saveFile('files.zip', answer.value);
  else tell(answer.problem.sentence, { detail: answer.problem.advice });
}

const TITLES: Readonly<Record<Run['order']['kind'], string>> = {
  trim: 'Trim',
  series: 'Series',
  grow: 'What is the most it gives',
  watch: 'Watch',
};

/** How far it is: what was sent, how fast, and how long it still takes at most. */
function tellProgress(
  { order, status, sends, startedAt, endedAt, result }: Run,
  steps: readonly RunStep[],
  isPausing: boolean,
): string {
  const sent = `${formatPlural(sends, 'request')} sent`;
  if (status === 'paused') return `${sent}; paused.`;
  if (isPausing) return `${sent}; pausing once the response under way is there.`;
  const last = steps.at(-1);
  const seconds = ((endedAt ?? last?.sentAt ?? startedAt) - startedAt) / 1000;
  if (status === 'ended') return `${sent} in ${formatPlural(Math.max(1, Math.round(seconds)), 'second')}.`;
  const most = mostOf(order, result);
  if (most === undefined || sends < 2 || seconds <= 0) return `${sent}.`;
  const rate = (sends - 1) / seconds;
  const left = Math.max(1, Math.round((most - sends) / rate));
  const time = left < 120 ? formatPlural(left, 'second') : formatPlural(Math.round(left / 60), 'minute');
  return `${sent}, ${rate.toFixed(1)} a second; ${time} left at most.`;
}

function mostOf(order: Run['order'], result: Run['result']): number | undefined {
  switch (order.kind) {
    case 'trim':
    case 'watch':
      return order.mostSends;
    case 'series': {
      const files = result.series?.addresses?.length;
      if (files !== undefined) return (result.series?.responses ?? 0) + files;
      const most = Number(order.loop.mostPages);
      return Number.isInteger(most) && order.loop.kind !== 'values' && order.loop.kind !== 'days' ? most : undefined;
    }
    case 'grow':
      return undefined;
    default:
      return order satisfies never;
  }
}

interface NeededProps {
  readonly needed: readonly { readonly key: string; readonly name: string; readonly reason: string }[];
  readonly leftOut: readonly string[];
}

/** What a trim found, line by line. */
function Needed({ needed, leftOut }: NeededProps) {
  return (
    <div className="mt-2 text-[12px]">
      {needed.length === 0 ? null : (
        <ul aria-label="What is needed">
          {needed.map(({ key, name, reason }) => (
            <li key={key}>
              <b>{name}</b>: {reason}
            </li>
          ))}
        </ul>
      )}
      {leftOut.length === 0 ? null : (
        <details className="text-soft">
          <summary>{formatPlural(leftOut.length, 'part')} can be left out</summary>
          {leftOut.join(', ')}
        </details>
      )}
    </div>
  );
}
