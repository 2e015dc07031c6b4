import { useState } from 'react';
import { TARGETS, type TargetId } from '#core/convert';
import { formatPlural } from '#core/wording';
import { exportHar } from '../state/api';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { saveFile } from './save-file';
import { codeOfSelection } from './script-of';

interface CodeOfSelectionProps {
  readonly captureId: string;
  readonly indexes: readonly number[];
  readonly onDone: () => void;
}

const NOTES_SHOWN = 6;

/** The requests of what is shown as code, in capture order. */
export default function CodeOfSelection({ captureId, indexes, onDone }: CodeOfSelectionProps) {
  const [target, setTarget] = useState<TargetId>('curl-sh');
  const save = async (): Promise<void> => {
    const ordered = [...indexes].sort((a, b) => a - b);
    const answer = await exportHar(captureId, ordered);
    if (!answer.ok) {
      tell(answer.problem.sentence, { detail: answer.problem.advice });
      return;
    }
    const { name, content, notes } = codeOfSelection(await answer.value.text(), ordered, target);
    saveFile(name, content);
    onDone();
    tell(`Saved ${formatPlural(ordered.length, 'request')} as code.`, {
      detail: notes.slice(0, NOTES_SHOWN).join(' '),
    });
  };
  return (
    <>
      <h2 className="mt-5 font-bold text-base">Their requests as code, in capture order</h2>
      <p className="text-soft">
        For curl in a POSIX shell, Node with fetch and Python with requests one script, in which later requests take
        tokens and ids from earlier answers; for the others a file each, zipped. Secrets are in it.
      </p>
      <p className="mt-2 flex flex-wrap items-center gap-3">
        <Choice
          label="What to turn the requests into"
          before="as"
          value={target}
          options={TARGETS.map(({ id, label }) => [id, label] as const)}
          onChoose={setTarget}
        />
        <Button onClick={save}>Save the code</Button>
      </p>
    </>
  );
}
