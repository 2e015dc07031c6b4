import { useRef, useState } from 'react';
import { isProven } from '#core/redact';
import { REPORT_PARTS } from '#core/report';
import type { CaptureCard } from '#core/wire';
import { formatPlural } from '#core/wording';
import { compareAddress } from '../compare/load-name';
import { fileName, saveFile } from '../export/save-file';
import { fetchChoice, makeReport } from '../hand-off/hand-off-api';
import { exportHar } from '../state/api';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';

interface ChosenCardsProps {
  readonly those: readonly CaptureCard[];
  readonly onAll: () => void;
  readonly onNone: () => void;
  readonly onRemove: () => void;
}

/** What can be done with several captures at once. */
export function ChosenCards({ those, onAll, onNone, onRemove }: ChosenCardsProps) {
  const { reporting, begin, cancel } = useReports(those);
  if (those.length === 0) return null;
  const saveAll = async (): Promise<void> => {
    const missing: string[] = [];
    for (const { id, name } of those) {
      const answer = await exportHar(id);
      if (answer.ok) saveFile(fileName(name, 'har'), answer.value);
      else missing.push(`"${name}": ${answer.problem.sentence}`);
    }
    const saved = `${formatPlural(those.length - missing.length, 'file')} saved, as they were recorded.`;
    tell(saved, missing.length === 0 ? {} : { detail: `Not saved: ${missing.join(' ')}` });
  };
  return (
    <span className="flex flex-wrap items-center gap-3 text-ink">
      <b role="status">{formatPlural(those.length, 'capture')} chosen</b>
      <Button
        action={{ id: 'delete-chosen', label: 'Delete the chosen captures', keys: ['Delete'] }}
        onClick={onRemove}
      >
        Delete them
      </Button>
      <Button onClick={saveAll}>Export them as HAR</Button>
      {reporting === undefined ? (
        <Button onClick={begin}>Report on them</Button>
      ) : (
        <>
          <span role="status">
            Writing report {reporting + 1} of {those.length}
          </span>
          <Button onClick={cancel}>Cancel</Button>
        </>
      )}
      {those.length < 2 ? null : (
        <Button onClick={() => location.assign(compareChosen(those))}>Compare the oldest with the others</Button>
      )}
      <Button onClick={onAll}>Choose all shown</Button>
      <Button onClick={onNone}>Choose none</Button>
    </span>
  );
}

/** The load that was recorded first against all the others; what has no time of recording comes last. */
function compareChosen(those: readonly CaptureCard[]): string {
  const [first, ...others] = those
    .toSorted((one, other) => (one.overview.recordedAt ?? Infinity) - (other.overview.recordedAt ?? Infinity))
    .map(({ id }) => id);
  return compareAddress(first === undefined ? [] : [first], others);
}

/** Writes a report of each capture, one after the other, as its own hand-off is chosen; only what is proven is saved. */
function useReports(those: readonly CaptureCard[]) {
  const [reporting, setReporting] = useState<number>();
  const running = useRef<AbortController>(undefined);
  const begin = async (): Promise<void> => {
    const abort = new AbortController();
    running.current = abort;
    const failed: string[] = [];
    let saved = 0;
    for (const [at, { id, name }] of those.entries()) {
      if (abort.signal.aborted) break;
      setReporting(at);
      const problem = await saveReport(id, abort.signal);
      if (problem === undefined) saved++;
      else failed.push(`"${name}": ${problem}`);
    }
    setReporting(undefined);
    if (abort.signal.aborted) tell(`Cancelled; ${formatPlural(saved, 'report')} saved.`);
    else
      tell(
        `${formatPlural(saved, 'report')} saved, without secrets.`,
        failed.length === 0 ? {} : { detail: `Not saved: ${failed.join(' ')}` },
      );
  };
  return { reporting, begin, cancel: () => running.current?.abort() };
}

/** Saves the report of a capture's first page. Gives what is wrong where it is not saved. */
async function saveReport(captureId: string, signal: AbortSignal): Promise<string | undefined> {
  const choice = await fetchChoice(captureId);
  if (!choice.ok) return choice.problem.sentence;
  let problem: string | undefined = 'It was cancelled.';
  const asked = {
    choice: choice.value,
    page: undefined,
    comparedWith: undefined,
    parts: REPORT_PARTS,
    format: 'html',
    notes: [],
  } as const;
  const answer = await makeReport(
    captureId,
    asked,
    (message) => {
      if (message.type === 'failed') problem = message.problem.sentence;
      else if (message.type === 'written') {
        problem = isProven(message.proof) ? undefined : 'Its proof failed.';
        if (problem === undefined)
          saveFile(fileName(`${message.name} report`, 'html'), new Blob([message.text], { type: 'text/html' }));
      }
    },
    signal,
  );
  return answer.ok || signal.aborted ? problem : answer.problem.sentence;
}
