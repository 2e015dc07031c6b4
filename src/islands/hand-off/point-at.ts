import type { HandOffChoice } from '#core/redact';
import { tell } from '../state/notices';
import { withPointed } from './choices';
import { fetchChoice, writeChoice } from './hand-off-api';

/** What is selected on the screen, in a field too. */
function selectedText(): string {
  const { activeElement } = document;
  if (activeElement instanceof HTMLInputElement || activeElement instanceof HTMLTextAreaElement) {
    const { selectionStart, selectionEnd, value } = activeElement;
    if (selectionStart !== null && selectionEnd !== null && selectionEnd > selectionStart)
      return value.slice(selectionStart, selectionEnd);
  }
  return document.getSelection()?.toString() ?? '';
}

/** Longer values are no secrets; whole pages get selected by accident. */
const LONGEST = 20_000;
/** In how many characters a value is spoken of. */
const SAID_CHARS = 24;

/** The value that is selected, to be inked out; undefined, and said why, where it is none. */
export function selectedValue(): string | undefined {
  const text = selectedText().trim();
  if (text === '') {
    tell('Nothing is selected.', { detail: 'Select a value with the mouse, or with Shift and the arrows, first.' });
    return undefined;
  }
  if (text.length > LONGEST) {
    tell('This is too long to be one secret.', { detail: 'Select the value alone.' });
    return undefined;
  }
  return text;
}

/** What is selected is secret wherever it stands: the hand-off of this capture inks it out. */
export async function pointAtSecret(captureId: string): Promise<void> {
  const text = selectedValue();
  if (text === undefined) return;
  if (!(await change(captureId, (before) => withPointed(before, text, true)))) return;
  const said = text.length > SAID_CHARS ? `${text.slice(0, SAID_CHARS)}…` : text;
  tell(`“${said}” is secret: the hand-off inks it out everywhere.`, {
    action: { label: 'Undo', run: () => change(captureId, (before) => withPointed(before, text, false)) },
  });
}

async function change(captureId: string, make: (choice: HandOffChoice) => HandOffChoice): Promise<boolean> {
  const before = await fetchChoice(captureId);
  const answer = before.ok ? await writeChoice(captureId, make(before.value)) : before;
  if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
  return answer.ok;
}
