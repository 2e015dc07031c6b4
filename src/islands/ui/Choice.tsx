import { type ControlAction, useControl } from './use-actions';

interface ChoiceProps<Id extends string> {
  /** The action by which a key gives it the focus. */
  readonly action?: ControlAction;
  readonly label: string;
  /** The word before the choice, as in "arranged by start". */
  readonly before?: string;
  readonly value: Id;
  readonly options: readonly (readonly [Id, string])[];
  readonly onChoose: (id: Id) => void;
}

/** A small choice in a line of text. */
export function Choice<Id extends string>({ action, label, before, value, options, onChoose }: ChoiceProps<Id>) {
  const element = useControl<HTMLSelectElement>(action, 'focus');
  return (
    <label className="flex max-w-full items-center gap-1 text-soft">
      {before}
      <select
        ref={element}
        aria-label={label}
        value={value}
        onChange={({ target }) => {
          const chosen = options.find(([one]) => one === target.value);
          if (chosen !== undefined) onChoose(chosen[0]);
        }}
        className="field-sizing-content max-w-full bg-transparent font-semibold text-ink"
      >
        {options.map(([one, words]) => (
          <option key={one} value={one}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
