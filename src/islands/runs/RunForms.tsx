import { type ReactNode, useState } from 'react';
import { FIRST_LOOP, type LoopFields, readLoop, TARGETS } from '#core/convert';
import { loopOfWatch, readCondition, sizeParameter } from '#core/series';
import type { KeptDraft } from '#core/sheet';
import { partsOf } from '#core/trim';
import type { RunKind, RunOrder } from '#core/wire';
import { formatPlural } from '#core/wording';
import { LoopChoice } from '../drafts/LoopChoice';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';

const FIELD = 'border border-line bg-paper px-1 font-mono text-[12px] text-ink aria-invalid:border-failed';

interface FormProps {
  readonly kept: KeptDraft;
  readonly onBegin: (order: RunOrder) => void;
  readonly onLoop: (loop: LoopFields) => void;
}

/** What each kind of run asks before it is begun. */
export const RUN_FORMS: { readonly [K in RunKind]: (props: FormProps) => ReactNode } = {
  trim: TrimForm,
  series: SeriesForm,
  grow: GrowForm,
  watch: WatchForm,
};

interface BeginProps {
  /** Why it cannot be begun; absent where it can. */
  readonly problem?: string | undefined;
  /** What would be sent. */
  readonly sends: string;
  readonly onBegin: () => void;
}

function Begin({ problem, sends, onBegin }: BeginProps) {
  return (
    <div className="mt-2 flex flex-wrap items-center gap-3">
      <Button
        isMain
        isOff={problem !== undefined}
        onClick={onBegin}
        action={{ id: 'run-begin', label: 'Begin the trim, series, growing or watch', keys: ['Shift+Enter'] }}
      >
        Begin
      </Button>
      <span role="status" className={problem === undefined ? 'text-soft' : 'text-failed'}>
        {problem ?? sends}
      </span>
    </div>
  );
}

interface TextFieldProps {
  /** What it is a field of. */
  readonly of: string;
  readonly label: string;
  readonly value: string;
  readonly width?: string;
  readonly onValue: (value: string) => void;
}

function TextField({ of, label, value, width = 'w-14', onValue }: TextFieldProps) {
  return (
    <label className="flex items-center gap-1 text-soft">
      {label}
      <input
        aria-label={`${of}: ${label}`}
        value={value}
        onChange={({ target }) => onValue(target.value)}
        className={`${width} ${FIELD}`}
      />
    </label>
  );
}

/** Which parts are needed. */
function TrimForm({ kept, onBegin }: FormProps) {
  const [most, setMost] = useState('80');
  const [target, setTarget] = useState<(typeof TARGETS)[number]['id']>('curl-sh');
  const parts = partsOf(kept).flatMap((part) => [part, ...part.inside]).length;
  const mostSends = Number(most);
  const problem =
    parts === 0
      ? 'Nothing of this request can be left out.'
      : Number.isInteger(mostSends) && mostSends >= 3 && mostSends <= 1000
        ? undefined
        : 'It sends 3 times at least, and 1,000 times at most.';
  return (
    <>
      <p className="text-soft">
        Leaves out headers, cookies, parameters and fields, group by group, until only those are left without which the
        response is not the same.
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1">
        <Choice
          label="What the trimmed request is for"
          before="for"
          value={target}
          options={TARGETS.map(({ id, label }) => [id, label] as const)}
          onChoose={setTarget}
        />
        <TextField of="Trim" label="at most" value={most} width="w-12" onValue={setMost} />
        <span className="text-soft">requests</span>
      </div>
      <Begin
        problem={problem}
        sends={`${formatPlural(parts, 'part')}; sends up to ${most} requests to ${hostOf(kept)}, 250 ms apart.`}
        onBegin={() => onBegin({ kind: 'trim', measure: 'captured', target, mostSends })}
      />
    </>
  );
}

const hostOf = ({ draft }: KeptDraft): string => /^[a-z]+:\/\/([^/?#]*)/i.exec(draft.url)?.[1] ?? 'its host';

/** One draft over a range of values. */
function SeriesForm({ kept, onBegin, onLoop }: FormProps) {
  const [atOnce, setAtOnce] = useState<'1' | '2' | '3' | '4'>('1');
  const fields = kept.loop ?? FIRST_LOOP;
  const loop = readLoop(fields);
  const isSeries = typeof loop === 'object' && loop.type !== 'poll';
  const problem = isSeries
    ? undefined
    : typeof loop === 'string'
      ? loop
      : 'Choose what it goes through: a parameter that counts, the next page, values, or days.';
  const most = isSeries && 'mostPages' in loop ? loop.mostPages : undefined;
  const pause = isSeries && 'pauseMs' in loop ? `, ${loop.pauseMs} ms apart` : '';
  const often = most === undefined ? 'Sends requests' : `Sends up to ${formatPlural(most, 'request')}`;
  return (
    <>
      <LoopChoice fields={fields} onFields={onLoop} />
      {isSeries && (loop.type === 'pages' || loop.type === 'values') ? (
        <Choice
          label="Requests at once"
          before="at once"
          value={atOnce}
          options={(['1', '2', '3', '4'] as const).map((count) => [count, count] as const)}
          onChoose={setAtOnce}
        />
      ) : null}
      <Begin
        problem={problem}
        sends={`${often} to ${hostOf(kept)}${pause}. The code below is of the same series.`}
        onBegin={() => onBegin({ kind: 'series', loop: fields, atOnce: Number(atOnce) })}
      />
    </>
  );
}

/** What is the most it gives? */
function GrowForm({ kept, onBegin }: FormProps) {
  const [parameter, setParameter] = useState(() => sizeParameter(kept.draft) ?? '');
  const [list, setList] = useState(() => kept.loop?.list ?? '');
  const problem = list.trim() === '' ? 'Give the place of the list, like $.items.' : undefined;
  return (
    <>
      <p className="text-soft">
        Doubles the page size until no more rows come; where a size is refused, finds the largest that is not. Then
        leaves each other parameter of the query out, and keeps out what gave more without it.
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1">
        <TextField of="Grow" label="size parameter" value={parameter} width="w-24" onValue={setParameter} />
        <TextField of="Grow" label="list at" value={list} width="w-28" onValue={setList} />
      </div>
      <Begin
        problem={problem}
        sends={`Sends about 10 requests to ${hostOf(kept)}, seldom more than 30, 500 ms apart.`}
        onBegin={() => onBegin({ kind: 'grow', parameter, list })}
      />
    </>
  );
}

const UNITS = { s: 1000, min: 60_000, h: 3_600_000 } as const;

/** Again every so often, until something holds. */
function WatchForm({ kept, onBegin, onLoop }: FormProps) {
  const [every, setEvery] = useState('30');
  const [unit, setUnit] = useState<keyof typeof UNITS>('s');
  const [until, setUntil] = useState(() => (kept.loop === undefined ? '' : `${kept.loop.at} = ${kept.loop.until}`));
  const [most, setMost] = useState('1000');
  const condition = readCondition(until);
  const everyMs = Number(every) * UNITS[unit];
  const mostSends = Number(most);
  const loop = typeof condition === 'string' ? undefined : loopOfWatch(condition, everyMs, mostSends);
  const problem =
    typeof condition === 'string'
      ? condition
      : !(everyMs >= 1000 && everyMs <= 86_400_000)
        ? 'It is sent every second at most, and every 24 hours at least.'
        : Number.isInteger(mostSends) && mostSends >= 1 && mostSends <= 10_000
          ? undefined
          : 'It ends behind 1 to 10,000 requests.';
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <TextField of="Watch" label="every" value={every} width="w-10" onValue={setEvery} />
        <Choice
          label="Unit of time"
          before=""
          value={unit}
          options={(['s', 'min', 'h'] as const).map((one) => [one, one] as const)}
          onChoose={setUnit}
        />
        <TextField of="Watch" label="until" value={until} width="w-48" onValue={setUntil} />
        <TextField of="Watch" label="at most" value={most} width="w-14" onValue={setMost} />
        <span className="text-soft">requests</span>
      </div>
      <p className="mt-1 text-soft">
        For example <code>$.price &lt; 30</code>, <code>status = 200</code>, <code>$.free changes</code>,{' '}
        <code>$.items[0] is there</code>, or <code>changes</code>.
      </p>
      <Begin
        problem={problem}
        sends={`Goes on whether this page is open or not, for ${longest(everyMs * mostSends)} at most. ${
          loop === undefined ? 'No code is written of this condition.' : 'The code below becomes that of the same.'
        }`}
        onBegin={() => {
          if (loop !== undefined) onLoop({ ...(kept.loop ?? FIRST_LOOP), ...loop });
          onBegin({ kind: 'watch', until, everyMs, mostSends });
        }}
      />
    </>
  );
}

/** A length of time in its largest unit. */
function longest(ms: number): string {
  const hours = ms / UNITS.h;
  if (hours >= 48) return formatPlural(Math.round(hours / 24), 'day');
  return hours >= 2
    ? formatPlural(Math.round(hours), 'hour')
    : formatPlural(Math.max(1, Math.round(ms / UNITS.min)), 'minute');
}
