import { atom } from 'nanostores';
import { fetchSetting, writeSetting } from '../state/api';
import { tell } from '../state/notices';

/** The sifts that were used last, the latest first, and those that were given a name. */
export interface SavedSifts {
  readonly recent: readonly string[];
  readonly named: readonly { readonly name: string; readonly text: string }[];
}

const MOST_RECENT = 12;

export const $savedSifts = atom<SavedSifts>({ recent: [], named: [] });

export async function loadSavedSifts(): Promise<void> {
  const answer = await fetchSetting<SavedSifts>('sifts');
  if (!answer.ok || answer.value === null) return;
  // What was used or kept while they were on their way comes first.
  const { recent, named } = $savedSifts.get();
  const isOwn = (name: string): boolean => named.some((one) => one.name === name);
  $savedSifts.set({
    recent: [...new Set([...recent, ...answer.value.recent])].slice(0, MOST_RECENT),
    named: [...answer.value.named.filter(({ name }) => !isOwn(name)), ...named],
  });
}

export function remember(text: string): void {
  const { recent, named } = $savedSifts.get();
  if (text === '' || recent[0] === text) return;
  keep({ recent: [text, ...recent.filter((one) => one !== text)].slice(0, MOST_RECENT), named });
}

export function keepUnderName(name: string, text: string): void {
  const { recent, named } = $savedSifts.get();
  keep({ recent, named: [...named.filter((one) => one.name !== name), { name, text }] });
  tell(`Kept as "${name}".`, { detail: 'It is offered below the empty sift bar, in every capture.' });
}

export function forgetNamed(name: string): void {
  const { recent, named } = $savedSifts.get();
  const gone = named.filter((one) => one.name === name);
  keep({ recent, named: named.filter((one) => one.name !== name) });
  const undo = (): void => {
    const now = $savedSifts.get();
    keep({ recent: now.recent, named: [...now.named.filter((one) => one.name !== name), ...gone] });
  };
  tell(`"${name}" is no longer kept.`, { action: { label: 'Undo', run: undo } });
}

let written: Promise<unknown> = Promise.resolve();

/** One write after the other, each with the latest: two at once could arrive in the wrong order. */
async function keep(value: SavedSifts): Promise<void> {
  $savedSifts.set(value);
  const writing = written.then(() => writeSetting('sifts', $savedSifts.get()));
  written = writing;
  const answer = await writing;
  if (!answer.ok) tell(answer.problem.sentence, { detail: 'Your sifts are kept until this page is closed.' });
}
