import { useState } from 'react';
import { type CarriedAs, VARIABLE_NAME } from '#core/convert';
import { inlined, type KeptDraft, namesOn, renamed, type SharedVariable, type TakenFrom, tellTaken } from '#core/sheet';
import { tell } from '../state/notices';
import { Choice } from '../ui/Choice';
import type { ThereDrafts } from './use-drafts';

const FIELD = 'border border-line bg-paper px-1.5 font-mono text-[12px] text-ink';

interface VariablesListProps {
  readonly kept: KeptDraft;
  readonly drafts: ThereDrafts;
  /** Sends the draft that a variable is taken from. */
  readonly onRenew: (draft: string) => void;
}

/** The variables of the capture, those of this sheet first: one place to change them for all drafts. */
export function VariablesList({ kept, drafts, onRenew }: VariablesListProps) {
  const here = new Set(namesOn(kept.sheet));
  const isHere = ({ name }: SharedVariable): boolean => here.has(name);
  const { variables } = drafts;
  const ordered = [...variables.filter(isHere), ...variables.filter((one) => !isHere(one))];
  return (
    // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
    <section
      aria-label="Variables"
      tabIndex={0}
      className="mt-2 max-h-40 shrink-0 overflow-y-auto text-[13px] outline-none"
    >
      <h2 className="font-bold">Variables</h2>
      {ordered.length === 0 ? (
        <p className="text-soft">None. b makes the selection, or the value of the line, one.</p>
      ) : null}
      {ordered.map((variable) => (
        <Row key={variable.name} variable={variable} drafts={drafts} isHere={isHere(variable)} onRenew={onRenew} />
      ))}
    </section>
  );
}

interface RowProps {
  readonly variable: SharedVariable;
  readonly drafts: VariablesListProps['drafts'];
  readonly isHere: boolean;
  readonly onRenew: (draft: string) => void;
}

function Row({ variable, drafts, isHere, onRenew }: RowProps) {
  const { variables, changeVariables } = drafts;
  const set = (change: Partial<SharedVariable>): void => {
    changeVariables((all) => all.map((one) => (one.name === variable.name ? { ...one, ...change } : one)));
  };
  return (
    <div
      className={`mt-1 grid grid-cols-[9rem_minmax(0,1fr)_auto_auto] items-center gap-2 ${isHere ? '' : 'text-soft'}`}
    >
      <NameField
        name={variable.name}
        isFree={(name) => !variables.some((one) => one.name === name)}
        onName={(name) =>
          changeVariables(
            (all) => all.map((one) => (one.name === variable.name ? { ...one, name } : one)),
            (text) => renamed(text, variable.name, name),
          )
        }
      />
      <input
        aria-label={`Value of the variable ${variable.name}`}
        type={variable.isSecret ? 'password' : 'text'}
        autoComplete="off"
        value={variable.value}
        onChange={({ target }) => set({ value: target.value })}
        className={FIELD}
      />
      <label className="flex items-center gap-1">
        <input type="checkbox" checked={variable.isSecret} onChange={() => set({ isSecret: !variable.isSecret })} />
        secret
      </label>
      <button
        type="button"
        aria-label={`Put the value of ${variable.name} back in its place`}
        onClick={() => {
          const takeBack = changeVariables(
            (all) => all.filter(({ name }) => name !== variable.name),
            (text) => inlined(text, variable),
          );
          tell(`"${variable.name}" is no variable any more: its value stands in its places.`, {
            action: { label: 'Undo', run: takeBack },
          });
        }}
        className="text-soft underline hover:text-ink"
      >
        inline
      </button>
      <Taken
        variable={variable}
        drafts={drafts}
        isHere={isHere}
        onTaken={(takenFrom) =>
          changeVariables((all) => all.map((one) => (one.name === variable.name ? taking(one, takenFrom) : one)))
        }
        onRenew={onRenew}
      />
    </div>
  );
}

interface NameFieldProps {
  readonly name: string;
  readonly isFree: (name: string) => boolean;
  readonly onName: (name: string) => void;
}

/** A name as it is typed: it holds once the field is left, where it is a name and nobody else's. */
function NameField({ name, isFree, onName }: NameFieldProps) {
  return (
    <input
      aria-label={`Name of the variable ${name}`}
      defaultValue={name}
      spellCheck={false}
      onBlur={({ target }) => {
        const next = target.value.trim();
        if (next === name) return;
        if (VARIABLE_NAME.test(next) && isFree(next)) onName(next);
        else {
          target.value = name;
          tell(`"${next}" is not a free name: names are letters, digits and _, and each is one variable’s.`);
        }
      }}
      onKeyDown={({ key, currentTarget }) => {
        if (key === 'Enter') currentTarget.blur();
      }}
      className={FIELD}
    />
  );
}

/** A variable that takes its value from somewhere else, or from nowhere. */
function taking({ name, value, isSecret }: SharedVariable, takenFrom: TakenFrom | undefined): SharedVariable {
  return { name, value, isSecret, ...(takenFrom === undefined ? {} : { takenFrom }) };
}

interface TakenProps extends RowProps {
  readonly onTaken: (takenFrom: TakenFrom | undefined) => void;
}

/** Where a variable's value is taken from, or the way to say so. */
function Taken({ variable: { name, takenFrom }, drafts, isHere, onTaken, onRenew }: TakenProps) {
  const source = drafts.all.find(({ id }) => id === takenFrom?.draft);
  if (takenFrom !== undefined && source !== undefined) {
    return (
      <p className="col-span-4 flex flex-wrap gap-x-3 text-[12px] text-soft">
        <span>
          taken from the response of {source.name}, at {tellTaken(takenFrom)}
        </span>
        <button type="button" className="underline hover:text-ink" onClick={() => onRenew(source.id)}>
          renew {name}
        </button>
        <button type="button" className="underline hover:text-ink" onClick={() => onTaken(undefined)}>
          keep its value
        </button>
      </p>
    );
  }
  return isHere && drafts.all.length > 1 ? <TakeForm name={name} drafts={drafts} onTaken={onTaken} /> : null;
}

/** Asks for a draft and a place of its response. */
function TakeForm({ name, drafts, onTaken }: Pick<TakenProps, 'drafts' | 'onTaken'> & { readonly name: string }) {
  const [draft, setDraft] = useState(drafts.all[0]?.id ?? '');
  const [part, setPart] = useState<TakenFrom['part']>('json');
  const [place, setPlace] = useState('$.');
  const [as, setAs] = useState<CarriedAs>('plain');
  const isPlace = part === 'text' ? /.…/s.test(place) : place.trim() !== '';
  return (
    <details className="col-span-4 text-[12px] text-soft">
      <summary>take {name} from a response</summary>
      <span className="flex flex-wrap items-center gap-2">
        <Choice
          label={`Draft whose response gives ${name}`}
          before="of"
          value={draft}
          options={drafts.all.map((one) => [one.id, one.name] as const)}
          onChoose={setDraft}
        />
        <Choice
          label="Part of the response"
          before="its"
          value={part}
          options={PARTS}
          onChoose={(chosen) => {
            setPart(chosen);
            setPlace(chosen === 'json' ? '$.' : '');
          }}
        />
        <input
          aria-label="Place in the response"
          value={place}
          placeholder={EXAMPLES[part]}
          onChange={({ target }) => setPlace(target.value)}
          className={`${part === 'text' ? 'w-64' : 'w-32'} ${FIELD}`}
        />
        <Choice label="How it is written" before="" value={as} options={WAYS} onChoose={setAs} />
        <button
          type="button"
          disabled={!isPlace}
          className="underline enabled:hover:text-ink disabled:no-underline"
          onClick={() => onTaken({ draft, part, place: place.trim(), ...(as === 'plain' ? {} : { as }) })}
        >
          take
        </button>
      </span>
    </details>
  );
}

const PARTS = [
  ['json', 'JSON path'],
  ['header', 'header'],
  ['cookie', 'cookie'],
  ['text', 'text'],
  ['parameter', 'parameter of Location'],
] as const;

const EXAMPLES: Record<TakenFrom['part'], string> = {
  json: '$.token',
  header: 'Location',
  cookie: 'sid',
  text: 'name="csrf" value="…"',
  parameter: 'code',
};

const WAYS = [
  ['plain', 'as it is'],
  ['encoded', 'percent-encoded'],
  ['decoded', 'percent-decoded'],
] as const;
