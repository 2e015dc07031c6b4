import { tell } from '../state/notices';
import { Setting } from '../state/setting';

/** The filters that were used last, the latest first, and those that were given a name. */
export interface SavedFilters {
  readonly recent: readonly string[];
  readonly named: readonly { readonly name: string; readonly text: string }[];
}

const MOST_RECENT = 12;

const setting = new Setting<SavedFilters>(
  'filters',
  { recent: [], named: [] },
  'Your filters last until you close this page.',
);

export const $savedFilters = setting.$value;
export const loadSavedFilters = (): Promise<void> => setting.load();

export function remember(text: string): void {
  if (text === '' || $savedFilters.get().recent[0] === text) return;
  setting.change(({ recent, named }) => ({
    recent: [text, ...recent.filter((one) => one !== text)].slice(0, MOST_RECENT),
    named,
  }));
}

export function keepUnderName(name: string, text: string): void {
  setting.change(named((all) => [...all.filter((one) => one.name !== name), { name, text }]));
  tell(`Saved as "${name}".`, { detail: 'It is offered below the empty filter bar, in every capture.' });
}

export function forgetNamed(name: string): void {
  const gone = $savedFilters.get().named.filter((one) => one.name === name);
  const without = (all: SavedFilters['named']): SavedFilters['named'] => all.filter((one) => one.name !== name);
  setting.change(named(without));
  const undo = (): void => setting.change(named((all) => [...without(all), ...gone]));
  tell(`"${name}" deleted.`, { action: { label: 'Undo', run: undo } });
}

const named =
  (change: (named: SavedFilters['named']) => SavedFilters['named']) =>
  (all: SavedFilters): SavedFilters => ({ ...all, named: change(all.named) });
