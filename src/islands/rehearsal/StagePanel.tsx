import { useState } from 'react';
import type { Rehearsal } from '#core/wire';
import { formatPlural } from '#core/wording';
import { compareAddress } from '../compare/load-name';
import { fileName, saveFile } from '../export/save-file';
import { exportHar } from '../state/api';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { CopyButton } from '../ui/CopyButton';
import type { Rehearsals } from './use-rehearsals';

interface StagePanelProps {
  readonly rehearsal: Rehearsal;
  readonly rehearsals: Rehearsals;
  readonly captureName: string;
}

/** So many hosts are listed before the rest is opened. */
const FEW = 3;

/**
 * Where a rehearsal is found, what it was asked in sum, and what can be done with it.
 * Long because it is the markup of one panel with all that is done by it.
 */
export function StagePanel({ rehearsal, rehearsals, captureName }: StagePanelProps) {
  const { status, port, pageUrl, asked, missed, notKept, problem, order, certificate } = rehearsal;
  const isRunning = status === 'running' && port !== undefined;
  const away = rehearsals.problem;
  const scheme = order.isSecure ? 'https' : 'http';
  return (
    <section aria-label="The rehearsal" className="border-line border-b p-4 text-[13px]">
      <p role="status" className="font-bold text-base leading-5">
        {isRunning
          ? away === undefined
            ? `Answering at port ${port}: `
            : `At port ${port} when last heard of: `
          : `Stopped: `}
        {asked === 0
          ? 'nothing was asked yet.'
          : `${formatPlural(asked, 'request')}, ${missed === 0 ? 'all of them captured' : `${missed} of them not captured`}.`}
      </p>
      {problem === undefined ? null : <p className="text-failed">{problem}</p>}
      {away === undefined ? null : (
        <p role="alert" className="text-failed">
          {away.sentence} {away.advice}
        </p>
      )}
      {notKept === 0 ? null : (
        <p className="text-soft">
          {formatPlural(notKept, 'request')} came faster than they could be kept, and only count.
        </p>
      )}
      {isRunning ? (
        <>
          {pageUrl === undefined ? null : (
            <p className="mt-1">
              The page:{' '}
              <a href={pageUrl} target="_blank" rel="noreferrer" className="break-all font-mono text-[12px] underline">
                {pageUrl}
              </a>
            </p>
          )}
          <p className="mt-1">
            Code asks any host at <code className="font-mono text-[12px]">{`${scheme}://127.0.0.1:${port}`}</code>{' '}
            <CopyButton text={() => `${scheme}://127.0.0.1:${port}`} label="Copy the address for code" />
          </p>
          <Hosts rehearsal={rehearsal} />
          {certificate === undefined ? null : (
            <p className="mt-1">
              Clients have to trust its certificate.{' '}
              <CopyButton text={() => certificate} label="Copy the certificate">
                copy it
              </CopyButton>
            </p>
          )}
        </>
      ) : null}
      <div className="mt-2 flex flex-wrap gap-2">
        {isRunning ? (
          <>
            <Button
              isMain
              onClick={rehearsals.stop}
              action={{ id: 'rehearsal-stop', label: 'Stop the rehearsal', keys: ['q'] }}
            >
              Stop
            </Button>
            <Button onClick={rehearsals.rewind}>Begin from the first responses</Button>
          </>
        ) : null}
        {!isRunning && asked > notKept ? (
          <>
            <Button onClick={() => location.assign(`/c/${rehearsal.id}/waterfall`)}>Open as a capture</Button>
            <Button onClick={() => location.assign(compareAddress([rehearsal.captureId], [rehearsal.id]))}>
              Compare with the capture
            </Button>
            <Button onClick={() => void save(rehearsal, captureName)}>Save as HAR</Button>
          </>
        ) : null}
        <Button onClick={rehearsals.drop}>Delete</Button>
      </div>
    </section>
  );
}

async function save({ id }: Rehearsal, captureName: string): Promise<void> {
  const answer = await exportHar(id);
  if (answer.ok) saveFile(fileName(`Rehearsal of ${captureName}`, 'har'), answer.value);
  else tell(answer.problem.sentence, { detail: answer.problem.advice });
}

/** Each captured host with its address; those that were asked most first. */
function Hosts({ rehearsal: { addresses } }: { readonly rehearsal: Rehearsal }) {
  const [isOpen, setOpen] = useState(false);
  const shown = isOpen ? addresses : addresses.slice(0, FEW);
  return (
    <>
      <ul aria-label="Hosts" className="mt-1 text-[12px]">
        {shown.map(({ captured, local }) => (
          <li key={captured} className="flex min-w-0 gap-2">
            <span className="min-w-0 truncate text-soft">{captured} is at</span>
            <code className="min-w-0 truncate font-mono">{local}</code>
          </li>
        ))}
      </ul>
      {addresses.length <= FEW ? null : (
        <button
          type="button"
          onClick={() => setOpen(!isOpen)}
          className="text-[12px] text-soft underline hover:text-ink"
        >
          {isOpen ? 'fewer' : `${addresses.length - FEW} more hosts`}
        </button>
      )}
    </>
  );
}
