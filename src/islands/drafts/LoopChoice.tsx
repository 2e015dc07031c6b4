import { FIRST_LOOP, LOOP_KINDS, type LoopFields, ROW_CHOICES, readLoop } from '#core/convert';
import { Choice } from '../ui/Choice';
import { LOOP_FIELD, ValuesField } from './ValuesField';

interface LoopChoiceProps {
  readonly fields: LoopFields | undefined;
  readonly onFields: (fields: LoopFields) => void;
}

/**
 * What is done beyond one request.
 * Long because each kind of loop has its fields here, side by side.
 */
export function LoopChoice({ fields = FIRST_LOOP, onFields }: LoopChoiceProps) {
  const loop = readLoop(fields);
  const set = (change: Partial<LoopFields>): void => onFields({ ...fields, ...change });
  const field = (label: string, name: Exclude<keyof LoopFields, 'kind' | 'shortEnds' | 'rows'>, width: string) => (
    <label className="flex items-center gap-1 text-soft">
      {label}
      <input
        aria-label={`Loop: ${label}`}
        value={fields[name]}
        onChange={({ target }) => set({ [name]: target.value })}
        className={`${width} ${LOOP_FIELD}`}
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
          {field('pages at', 'pages', 'w-24')}
          <label className="flex items-center gap-1 text-soft">
            <input
              type="checkbox"
              checked={fields.shortEnds === 'yes'}
              onChange={({ target }) => set({ shortEnds: target.checked ? 'yes' : '' })}
            />
            a shorter page is the last
          </label>
          {field('at most', 'mostPages', 'w-12')}
          {field('pause in ms', 'pauseMs', 'w-14')}
        </>
      ) : null}
      {fields.kind === 'values' ? (
        <>
          {field('parameter', 'parameter', 'w-20')}
          <ValuesField values={fields.values} onValues={(values) => set({ values })} />
        </>
      ) : null}
      {fields.kind === 'days' ? (
        <>
          {field('parameter', 'parameter', 'w-20')}
          {field('first day', 'firstDay', 'w-24')}
          {field('last day', 'lastDay', 'w-24')}
          {field('step in days', 'step', 'w-10')}
        </>
      ) : null}
      {fields.kind === 'values' || fields.kind === 'days' ? (
        <>
          {field('list at', 'list', 'w-24')}
          {field('pause in ms', 'pauseMs', 'w-14')}
        </>
      ) : null}
      {fields.kind === 'follow' ? (
        <>
          {field('next at', 'next', 'w-24')}
          {field('goes into (empty: it is a URL)', 'cursor', 'w-20')}
          {field('list at', 'list', 'w-24')}
          {field('at most', 'mostPages', 'w-12')}
          {field('pause in ms', 'pauseMs', 'w-14')}
        </>
      ) : null}
      {fields.kind === 'poll' ? (
        <>
          {field('status', 'status', 'w-12')}
          {fields.status.trim() === '' ? (
            <>
              {field('or place', 'at', 'w-24')}
              {field('is', 'until', 'w-24')}
            </>
          ) : null}
          {field('pause in ms', 'pauseMs', 'w-14')}
          {field('tries', 'mostTries', 'w-12')}
        </>
      ) : null}
      {fields.kind === 'table' ? field('list at', 'list', 'w-32') : null}
      {fields.kind !== 'one' && fields.kind !== 'poll' && fields.kind !== 'files' ? (
        <Choice
          label="What the rows are written as"
          before="written as"
          value={fields.rows}
          options={ROW_CHOICES}
          onChoose={(rows) => set({ rows })}
        />
      ) : null}
      {fields.kind === 'files' ? (
        <>
          {field('URLs at', 'list', 'w-40')}
          {field('folder', 'folder', 'w-24')}
        </>
      ) : null}
      {typeof loop === 'string' ? (
        <span role="status" className="text-failed">
          {loop} Until then the code sends one request.
        </span>
      ) : null}
    </div>
  );
}
