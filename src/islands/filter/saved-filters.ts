import { atom } from 'nanostores';
import { fetchSetting, writeSetting } from '../state/api';
import { tell } from '../state/notices';

/** The filters that were used last, the latest first, and those that were given a name. */
export interface SavedFilters {
  readonly recent: readonly string[];
  readonly named: readonly { readonly name: string; readonly text: string }[];
}

const MOST_RECENT = 12;

export const $savedFilters = atom<SavedFilters>({ recent: [], named: [] });

export async function loadSavedFilters(): Promise<void> {
  const answer = await fetchSetting<SavedFilters>('filters');
  if (!answer.ok || answer.value === null) return;
  // What was used or kept while they were on their way comes first.
  const { recent, named } = $savedFilters.get();
  const isOwn = (name: string): boolean => named.some((one) => one.name === name);
  $savedFilters.set({
    recent: [...new Set([...recent, ...answer.value.recent])].slice(0, MOST_RECENT),
    named: [...answer.value.named.filter(({ name }) => !isOwn(name)), ...named],
  });
}

export function remember(text: string): void {
  const { recent, named } = $savedFilters.get();
  if (text === '' || recent[0] === text) return;
  keep({ recent: [text, ...recent.filter((one) => one !== text)].slice(0, MOST_RECENT), named });
}

export function keepUnderName(name: string, text: string): void {
  const { recent, named } = $savedFilters.get();
  keep({ recent, named: [...named.filter((one) => one.name !== name), { name, text }] });
  tell(`Saved as "${name}".`, { detail: 'It is offered below the empty filter bar, in every capture.' });
}

export function forgetNamed(name: string): void {
  const { recent, named } = $savedFilters.get();
  const gone = named.filter((one) => one.name === name);
  keep({ recent, named: named.filter((one) => one.name !== name) });
  const undo = (): void => {
    const now = $savedFilters.get();
    keep({ recent: now.recent, named: [...now.named.filter((one) => one.name !== name), ...gone] });
  };
  tell(`"${name}" deleted.`, { action: { label: 'Undo', run: undo } });
}

let written: Promise<unknown> = Promise.resolve();

/** One write after the other, each with the latest: two at once could arrive in the wrong order. */
async function keep(value: SavedFilters): Promise<void> {
  $savedFilters.set(value);
  const writing = written.then(() => writeSetting('filters', $savedFilters.get()));
  written = writing;
  const answer = await writing;
  if (!answer.ok) tell(answer.problem.sentence, { detail: 'Your filters last until you close this page.' });
}
