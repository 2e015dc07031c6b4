import { useState } from 'react';
import type { KeptDraft } from '#core/sheet';
import { formatPlural } from '#core/wording';
import { goTo } from '../state/address';
import { Button } from '../ui/Button';
import { Stairs } from '../waterfall/Strip';
import { inOrder, readOrder, type SequenceOrder, writeOrder } from './sequence-order';
import { StatusCell } from './TrialStrips';
import type { SequenceRun, SequenceStepResult } from './use-sequence';

interface SequencePaneProps {
  readonly captureId: string;
  readonly all: readonly KeptDraft[];
  readonly sequence: SequenceRun;
}

/** The drafts of a capture in the order in which they are sent in one go, each with what came of it. */
export function SequencePane({ captureId, all, sequence }: SequencePaneProps) {
  const [set, setSet] = useState<SequenceOrder>(() => readOrder(captureId));
  const change = (next: SequenceOrder): void => {
    setSet(next);
    writeOrder(captureId, next);
  };
  const ordered = inOrder(all, set);
  const sent = ordered.filter(({ id }) => !set.leftOut.includes(id));
  const move = (at: number, by: 1 | -1): void => {
    const ids = ordered.map(({ id }) => id);
    const [id] = ids.splice(at, 1);
    if (id !== undefined) ids.splice(Math.max(0, at + by), 0, id);
    change({ ...set, order: ids });
  };
  const turn = (id: string): void => {
    const leftOut = set.leftOut.includes(id) ? set.leftOut.filter((one) => one !== id) : [...set.leftOut, id];
    change({ ...set, leftOut });
  };
  const asked = sequence.results.find(({ question }) => question !== undefined);
  const longest = Math.max(1, ...sequence.results.map(({ trial }) => trial?.row.timeMs ?? 0));
  return (
    <section aria-label="Drafts in order" className="mb-4 min-w-0 text-[13px]">
      <div className="mb-2 flex items-center gap-3">
        <h2 className="font-bold">In order</h2>
        <span className="ml-auto flex gap-2">
          {sequence.sending === undefined ? (
            <Button isMain isOff={sent.length === 0} onClick={() => sequence.run(sent.map(({ id }) => id))}>
              {`Send ${formatPlural(sent.length, 'draft')} in order`}
            </Button>
          ) : (
            <Button onClick={sequence.cancel}>Cancel</Button>
          )}
        </span>
      </div>
      {asked?.question === undefined ? null : (
        <div role="alertdialog" aria-label="Before it is sent" className="mb-2 border border-redirect p-3">
          <p className="mb-2 font-semibold">{asked.question.sentence}</p>
          <Button isMain onClick={sequence.goOn}>
            Send it, do not ask again for this draft, and go on
          </Button>
        </div>
      )}
      <ol className="border-line border-t">
        {ordered.map((kept, at) => (
          <Row
            key={kept.id}
            kept={kept}
            number={at + 1}
            isLeftOut={set.leftOut.includes(kept.id)}
            isSending={sequence.sending === kept.id}
            result={sequence.results.find(({ id }) => id === kept.id)}
            longest={longest}
            onTurn={() => turn(kept.id)}
            onMove={(by) => move(at, by)}
          />
        ))}
      </ol>
    </section>
  );
}

interface RowProps {
  readonly kept: KeptDraft;
  readonly number: number;
  readonly isLeftOut: boolean;
  readonly isSending: boolean;
  readonly result: SequenceStepResult | undefined;
  readonly longest: number;
  readonly onTurn: () => void;
  readonly onMove: (by: 1 | -1) => void;
}

function Row({ kept, number, isLeftOut, isSending, result, longest, onTurn, onMove }: RowProps) {
  const row = result?.trial?.row;
  const quiet = 'shrink-0 text-[11px] text-soft underline hover:text-ink';
  return (
    <li className={`border-grid border-b py-1 ${isSending ? 'current' : ''}`}>
      <div className="flex items-center gap-2">
        <span className="w-6 shrink-0 text-right text-[11px] text-soft">{number}</span>
        <button
          type="button"
          onClick={() => goTo({ draft: kept.id, trial: undefined })}
          className={`min-w-0 flex-1 truncate text-left hover:underline ${isLeftOut ? 'text-soft line-through' : ''}`}
        >
          {kept.name}
        </button>
        {row === undefined ? null : (
          <>
            <StatusCell row={row} />
            <Stairs
              placed={{ row, startMs: 0, endMs: row.timeMs }}
              scale={{ fromMs: 0, toMs: longest * 1.1, widthPx: 120 }}
              lastMs={longest + 1}
            />
          </>
        )}
        <button
          type="button"
          aria-label={`${isLeftOut ? 'Send' : 'Leave out'} ${kept.name}`}
          onClick={onTurn}
          className={quiet}
        >
          {isLeftOut ? 'restore' : 'strike'}
        </button>
        <button type="button" aria-label={`${kept.name} earlier`} onClick={() => onMove(-1)} className={quiet}>
          earlier
        </button>
        <button type="button" aria-label={`${kept.name} later`} onClick={() => onMove(1)} className={quiet}>
          later
        </button>
      </div>
      {result?.stopped === undefined ? null : (
        <p role="status" className="pl-8 text-[12px] text-failed">
          Stopped here: {result.stopped}
        </p>
      )}
    </li>
  );
}
