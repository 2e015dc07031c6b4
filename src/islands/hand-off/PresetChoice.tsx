import { useStore } from '@nanostores/react';
import { type FormEvent, useEffect, useState } from 'react';
import { type HandOffChoice, PRESETS } from '#core/redact';
import { tell } from '../state/notices';
import { Setting } from '../state/setting';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { PRESET_WORDS, presetOf, withPreset } from './choices';

/** What is kept of a choice under a name: nothing that is of one capture alone. */
interface NamedChoice {
  readonly name: string;
  readonly choice: HandOffChoice;
}
interface NamedChoices {
  readonly named: readonly NamedChoice[];
}

interface PresetChoiceProps {
  readonly choice: HandOffChoice;
  readonly change: (change: (choice: HandOffChoice) => HandOffChoice) => void;
}

const OWN = 'own:';
const NONE = 'none';

/** Who it is for: what is inked out follows. Choices of one's own are kept under a name, for every capture. */
export function PresetChoice({ choice, change }: PresetChoiceProps) {
  const { named } = useStore(kept.$value);
  useEffect(() => void kept.load(), []);
  const [isNaming, setIsNaming] = useState(false);
  const own = named.find((one) => isSame(one.choice, choice));
  const preset = presetOf(choice);
  const value = own === undefined ? (preset ?? NONE) : `${OWN}${own.name}`;
  const choose = (id: string): void => {
    const found = named.find(({ name }) => id === `${OWN}${name}`);
    const chosen = PRESETS.find((one) => one === id);
    if (found !== undefined) change((before) => ({ ...found.choice, pointed: before.pointed, on: [], off: [] }));
    else if (chosen !== undefined) change((before) => withPreset(before, chosen));
  };
  const drop = (name: string): void => {
    const gone = named.filter((one) => one.name === name);
    kept.change(withNamed((all) => without(all, name)));
    const undo = (): void => kept.change(withNamed((all) => [...without(all, name), ...gone]));
    tell(`"${name}" deleted.`, { action: { label: 'Undo', run: undo } });
  };
  return (
    <>
      <Choice
        action={{ id: 'hand-off-for', label: 'Choose who it is for', keys: ['a'] }}
        label="Who it is for"
        before="for"
        value={value}
        options={[
          ...PRESETS.map((one) => [one as string, PRESET_WORDS[one]] as const),
          ...named.map(({ name }) => [`${OWN}${name}`, name] as const),
          ...(value === NONE ? [[NONE, 'as chosen below'] as const] : []),
        ]}
        onChoose={choose}
      />
      {own === undefined ? (
        <TextButton label="Keep this choice under a name" onClick={() => setIsNaming(!isNaming)}>
          keep
        </TextButton>
      ) : (
        <TextButton label={`Delete the choice ${own.name}`} onClick={() => drop(own.name)}>
          delete
        </TextButton>
      )}
      {isNaming ? (
        <NameField
          onKeep={(name) => {
            setIsNaming(false);
            const own = { name, choice: { ...choice, pointed: [], on: [], off: [] } };
            kept.change(withNamed((all) => [...without(all, name), own]));
          }}
        />
      ) : null}
    </>
  );
}

/** The choices that were kept under names, for every capture. */
const kept = new Setting<NamedChoices>('handOffs', { named: [] }, 'Your choices last until you close this page.');

const withNamed =
  (change: (named: NamedChoices['named']) => NamedChoices['named']) =>
  ({ named }: NamedChoices): NamedChoices => ({ named: change(named) });

const without = (named: NamedChoices['named'], name: string): NamedChoices['named'] =>
  named.filter((one) => one.name !== name);

const isSame = (one: HandOffChoice, other: HandOffChoice): boolean =>
  (['kinds', 'words', 'withoutBodies', 'blank'] as const).every(
    (name) => [...one[name]].sort().join('\n') === [...other[name]].sort().join('\n'),
  );

function NameField({ onKeep }: { readonly onKeep: (name: string) => void }) {
  const [name, setName] = useState('');
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    if (name.trim() !== '') onKeep(name.trim());
  };
  return (
    <form onSubmit={submit} className="flex items-center gap-2">
      <input
        // biome-ignore lint/a11y/noAutofocus: it was asked for by the button beside it.
        autoFocus
        aria-label="Name of this choice"
        value={name}
        maxLength={200}
        onChange={({ target }) => setName(target.value)}
        className="h-6 w-36 border border-line bg-sheet px-2"
      />
      <Button isSubmit>Keep</Button>
    </form>
  );
}

interface TextButtonProps {
  readonly label: string;
  readonly onClick: () => void;
  readonly children: string;
}

function TextButton({ label, onClick, children }: TextButtonProps) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      onClick={onClick}
      className="text-[13px] text-soft underline hover:text-ink"
    >
      {children}
    </button>
  );
}
