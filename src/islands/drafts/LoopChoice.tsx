import { FIRST_LOOP, LOOP_KINDS, type LoopFields, readLoop } from '#core/convert';
import { Choice } from '../ui/Choice';

const FIELD = 'border border-line bg-paper px-1 font-mono text-[12px] text-ink';

interface LoopChoiceProps {
  readonly fields: LoopFields | undefined;
  readonly onFields: (fields: LoopFields) => void;
}

/** What is done beyond one request. */
export function LoopChoice({ fields = FIRST_LOOP, onFields }: LoopChoiceProps) {
  const loop = readLoop(fields);
  const set = (change: Partial<LoopFields>): void => onFields({ ...fields, ...change });
  const field = (label: string, name: Exclude<keyof LoopFields, 'kind'>, width: string) => (
    <label className="flex items-center gap-1 text-soft">
      {label}
      <input
        aria-label={`Loop: ${label}`}
        value={fields[name]}
        onChange={({ target }) => set({ [name]: target.value })}
        className={`${width} ${FIELD}`}
      />
    </label>
  );
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <Choice
        action={{ id: 'draft-loop', label: 'Choose a loop for the code', keys: ['o'] }}
        label="What it does"
        before="it does"
        value={fields.kind}
        options={LOOP_KINDS}
        onChoose={(kind) => set({ kind })}
      />
      {fields.kind === 'pages' ? (
        <>
          {field('parameter', 'parameter', 'w-20')}
          {field('from', 'from', 'w-10')}
          {field('to', 'to', 'w-10')}
          {field('step', 'step', 'w-10')}
          {field('list at', 'list', 'w-24')}
          {field('total at', 'total', 'w-24')}
          {field('at most', 'mostPages', 'w-12')}
          {field('pause in ms', 'pauseMs', 'w-14')}
        </>
      ) : null}
      {fields.kind === 'poll' ? (
        <>
          {field('place', 'at', 'w-24')}
          {field('is', 'until', 'w-24')}
          {field('pause in ms', 'pauseMs', 'w-14')}
          {field('tries', 'mostTries', 'w-12')}
        </>
      ) : null}
      {fields.kind === 'table' ? field('list at', 'list', 'w-32') : null}
      {fields.kind === 'files' ? (
        <>
          {field('URLs at', 'list', 'w-40')}
          {field('folder', 'folder', 'w-24')}
        </>
      ) : null}
      {typeof loop === 'string' ? (
        <span role="status" className="text-failed">
          {loop}
        </span>
      ) : null}
    </div>
  );
}
