import { atom } from 'nanostores';
import { useState } from 'react';
import { type Loop, readSteps } from '#core/convert';
import { Choice } from '../ui/Choice';

/** What a loop is set to before anybody touches it: the endpoints and the tables of the dossier fill it in. */
export interface LoopPreset {
  readonly kind: Kind;
  readonly parameter?: string;
  readonly from?: string;
  readonly step?: string;
  readonly list?: string;
}
export const $loopPreset = atom<LoopPreset | undefined>(undefined);

type Kind = 'one' | Loop['type'];
const KINDS: readonly (readonly [Kind, string])[] = [
  ['one', 'one request'],
  ['pages', 'page through a parameter'],
  ['poll', 'ask again until'],
  ['table', 'write a list as CSV'],
  ['files', 'download what it names'],
];

const FIELD = 'border border-line bg-paper px-1 font-mono text-[12px] text-ink';

interface Fields {
  readonly kind: Kind;
  readonly parameter: string;
  readonly from: string;
  readonly to: string;
  readonly step: string;
  readonly list: string;
  readonly total: string;
  readonly at: string;
  readonly until: string;
  readonly pauseMs: string;
  readonly most: string;
  readonly folder: string;
}

const FIRST: Fields = {
  kind: 'one',
  parameter: 'page',
  from: '0',
  to: '',
  step: '1',
  list: '$.items',
  total: '',
  at: '$.status',
  until: 'done',
  pauseMs: '500',
  most: '20',
  folder: 'files',
};

/** A loop from its fields, or what is wrong with them in a sentence. */
function loopOf(fields: Fields): Loop | string | undefined {
  const number = (text: string): number => (text.trim() === '' ? Number.NaN : Number(text));
  const pauseMs = number(fields.pauseMs);
  if (fields.kind === 'one') return undefined;
  if (!(pauseMs >= 0)) return 'The pause is a number of ms.';
  const steps = (text: string) => readSteps(text);
  switch (fields.kind) {
    case 'pages': {
      const [from, step] = [number(fields.from), number(fields.step)];
      const to = fields.to.trim() === '' ? undefined : number(fields.to);
      const list = steps(fields.list);
      const total = fields.total.trim() === '' ? undefined : steps(fields.total);
      if (!Number.isInteger(from) || !Number.isInteger(step) || step === 0)
        return 'From and step are whole numbers, the step not 0.';
      if (to !== undefined && !Number.isInteger(to)) return 'To is a whole number, or empty.';
      if (fields.parameter === '') return 'Name the parameter.';
      if (list === undefined) return 'The list is a place like $.items.';
      if (fields.total.trim() !== '' && total === undefined) return 'The total is a place like $.total.';
      return { type: 'pages', parameter: fields.parameter, from, to, step, list, total, pauseMs };
    }
    case 'poll': {
      const [at, most] = [steps(fields.at), number(fields.most)];
      if (at === undefined) return 'What is waited for is a place like $.status.';
      if (!Number.isInteger(most) || most < 1) return 'The tries are a whole number.';
      return { type: 'poll', at, until: fields.until, pauseMs, most };
    }
    case 'table': {
      const list = steps(fields.list);
      return list === undefined ? 'The list is a place like $.items.' : { type: 'table', list };
    }
    case 'files': {
      const at = steps(fields.list);
      if (at === undefined) return 'The addresses stand at a place like $.items[*].photo.';
      return fields.folder.trim() === '' ? 'Name the folder.' : { type: 'files', at, folder: fields.folder };
    }
    default:
      return fields.kind satisfies never;
  }
}

interface LoopChoiceProps {
  readonly onLoop: (loop: Loop | undefined) => void;
}

/** What is done beyond one request. */
export function LoopChoice({ onLoop }: LoopChoiceProps) {
  const [fields, setFields] = useState<Fields>(() => {
    const preset = $loopPreset.get();
    $loopPreset.set(undefined);
    const next = preset === undefined ? FIRST : { ...FIRST, ...preset };
    const loop = loopOf(next);
    if (preset !== undefined && typeof loop === 'object') queueMicrotask(() => onLoop(loop));
    return next;
  });
  const loop = loopOf(fields);
  const set = (change: Partial<Fields>): void => {
    const next = { ...fields, ...change };
    setFields(next);
    const made = loopOf(next);
    onLoop(typeof made === 'string' ? undefined : made);
  };
  const field = (label: string, name: Exclude<keyof Fields, 'kind'>, width: string) => (
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
        id="draft-loop"
        label="What it does"
        before="it does"
        value={fields.kind}
        options={KINDS}
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
          {field('pause in ms', 'pauseMs', 'w-14')}
        </>
      ) : null}
      {fields.kind === 'poll' ? (
        <>
          {field('place', 'at', 'w-24')}
          {field('is', 'until', 'w-24')}
          {field('pause in ms', 'pauseMs', 'w-14')}
          {field('tries', 'most', 'w-12')}
        </>
      ) : null}
      {fields.kind === 'table' ? field('list at', 'list', 'w-32') : null}
      {fields.kind === 'files' ? (
        <>
          {field('addresses at', 'list', 'w-40')}
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
