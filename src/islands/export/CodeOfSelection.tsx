import { useState } from 'react';
import { DEFAULT_OPTIONS, findTarget, SCRIPT_TARGETS, TARGETS, type TargetId, tellScriptTargets } from '#core/convert';
import type { ProblemAnswer } from '#core/wire';
import { formatPlural } from '#core/wording';
import { lastTarget, rememberTarget } from '../capture/last-target';
import { exportHar } from '../state/api';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { codeOfSelection, sequenceOfSelection } from './script-of';
import { readSelection } from './selection';

interface CodeOfSelectionProps {
  readonly captureId: string;
  readonly indexes: readonly number[];
  /** Takes the file, and what is to be known of it. */
  readonly onSave: (name: string, content: Blob, detail: string) => void;
  readonly onProblem: (problem: ProblemAnswer) => void;
}

const NOTES_SHOWN = 6;
/** More drafts than these nobody looks through. */
const MOST_DRAFTS = 60;

/**
 * The requests of what is shown as code, in capture order.
 * Long because the choice of exchanges, of a target and of a way to save them lead to one text.
 */
export default function CodeOfSelection({ captureId, indexes, onSave, onProblem }: CodeOfSelectionProps) {
  const [target, setTarget] = useState<TargetId>(() => findTarget(lastTarget() ?? '')?.id ?? 'curl-sh');
  const [which, setWhich] = useState('');
  const [secretsFromEnv, setSecretsFromEnv] = useState(false);
  const [goesOn, setGoesOn] = useState(false);
  const selection = readSelection(which, indexes);
  const isScript = SCRIPT_TARGETS.some((id) => id === target);
  const save = async (): Promise<void> => {
    if (!selection.ok) return;
    const answer = await exportHar(captureId, selection.indexes);
    if (!answer.ok) {
      onProblem(answer.problem);
      return;
    }
    const options = { ...DEFAULT_OPTIONS, secretsFromEnv };
    const har = await answer.value.text();
    const { name, content, notes } = codeOfSelection(har, selection.indexes, target, options, { goesOn });
    rememberTarget(target);
    const more = notes.length - NOTES_SHOWN;
    const further = more > 0 ? [`${formatPlural(more, 'more note')} of this kind.`] : [];
    onSave(
      name,
      content,
      [`It has ${formatPlural(selection.indexes.length, 'request')}.`, ...notes.slice(0, NOTES_SHOWN), ...further].join(
        ' ',
      ),
    );
  };
  const begin = async (): Promise<void> => {
    if (!selection.ok) return;
    const answer = await exportHar(captureId, selection.indexes);
    if (!answer.ok) {
      onProblem(answer.problem);
      return;
    }
    const { beginSequence } = await import('../drafts/begin-sequence');
    await beginSequence(captureId, sequenceOfSelection(await answer.value.text(), selection.indexes));
  };
  return (
    <section aria-label="Their requests as code">
      <h2 className="font-bold">Their requests as code, in capture order</h2>
      <p className="text-soft">
        {isScript
          ? 'One script, in which later requests take tokens and ids from earlier responses.'
          : `A file for each, zipped. For ${tellScriptTargets()} they are one script.`}
      </p>
      <p className="mt-2 flex flex-wrap items-center gap-3">
        <Choice
          label="What to turn the requests into"
          before="as"
          value={target}
          options={TARGETS.map(({ id, label }) => [id, label] as const)}
          onChoose={setTarget}
        />
        <label className="flex items-center gap-1.5">
          <span className="text-soft">only numbers</span>
          <input
            value={which}
            aria-label="Only the exchanges of these numbers"
            placeholder="all shown"
            aria-invalid={!selection.ok}
            onChange={({ target: { value } }) => setWhich(value)}
            className="w-32 border border-line bg-paper px-1.5 font-mono text-[13px]"
          />
        </label>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={secretsFromEnv}
            onChange={({ target: { checked } }) => setSecretsFromEnv(checked)}
          />
          read credentials from environment variables
        </label>
        {isScript ? (
          <label className="flex items-center gap-1.5">
            <input type="checkbox" checked={goesOn} onChange={({ target: { checked } }) => setGoesOn(checked)} />
            go on where a request fails
          </label>
        ) : null}
      </p>
      <p role="status" className="mt-1 text-[13px] text-soft">
        {!selection.ok
          ? selection.problem
          : secretsFromEnv
            ? 'Credentials are read from the environment when it runs.'
            : 'Warning: the code contains the captured credentials.'}
      </p>
      <p className="mt-2 flex gap-2">
        <Button onClick={save} isOff={!selection.ok}>
          {selection.ok ? `Save the code of ${formatPlural(selection.indexes.length, 'request')}` : 'Save the code'}
        </Button>
        <Button onClick={begin} isOff={!selection.ok || selection.indexes.length > MOST_DRAFTS}>
          As drafts to send in order
        </Button>
      </p>
    </section>
  );
}
