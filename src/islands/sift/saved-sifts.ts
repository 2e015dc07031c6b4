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
  if (answer.ok && answer.value !== null) $savedSifts.set(answer.value);
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
  const before = $savedSifts.get();
  keep({ recent: before.recent, named: before.named.filter((one) => one.name !== name) });
  tell(`"${name}" is no longer kept.`, { action: { label: 'Undo', run: () => keep(before) } });
}

async function keep(value: SavedSifts): Promise<void> {
  $savedSifts.set(value);
  const answer = await writeSetting('sifts', value);
  if (!answer.ok) tell(answer.problem.sentence, { detail: 'Your sifts are kept until this page is closed.' });
}
