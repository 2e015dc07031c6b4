import type { Preset, TargetId } from '#core/convert';
import { formatPlural } from '#core/wording';
import { fetchDossier } from '../state/api';
import { tell } from '../state/notices';
import { copyText } from '../ui/copy';
import { lastTarget, rememberTarget } from './last-target';

/** Puts an exchange's curl command for a POSIX shell on the clipboard and says what was left out of it. */
export const copyCurl = (captureId: string, index: number, preset: Preset): Promise<void> =>
  copyAs(captureId, index, CURL, preset);

const CURL: TargetId = 'curl-sh';

/** Puts what a captured request becomes for a target on the clipboard and says what was left out of it. */
export async function copyAs(captureId: string, index: number, id: TargetId, preset: Preset): Promise<void> {
  const answer = await fetchDossier(captureId, index);
  if (!answer.ok) {
    tell(answer.problem.sentence, { detail: answer.problem.advice });
    return;
  }
  // Conversion is loaded when it is first asked for: the chart does not need it.
  const { DEFAULT_OPTIONS, draftFromExchange, findTarget, tellLeftOut } = await import('#core/convert');
  const draft = draftFromExchange(answer.value.exchange, preset);
  const target = findTarget(id);
  if (target === undefined) throw new Error(`the target ${id} no longer exists`);
  const { text, warnings } = target.render(draft, { ...DEFAULT_OPTIONS, idioms: preset === 'lean' });
  if (!(await copyText(text))) {
    tell('Could not write to the clipboard.', {
      detail: 'Allow this page to use the clipboard, then try again.',
    });
    return;
  }
  rememberTarget(id);
  const kept = formatPlural(draft.headers.filter((header) => header.kept).length, 'header');
  tell(`Copied #${index} for ${target.label}, with ${kept}.`, {
    detail: [...warnings, ...tellLeftOut(draft)].join(' '),
  });
}

/** Copies for the target used last, for a POSIX shell where there is none. */
export async function copyForLast(captureId: string, index: number): Promise<void> {
  const { findTarget } = await import('#core/convert');
  await copyAs(captureId, index, findTarget(lastTarget() ?? CURL)?.id ?? CURL, 'faithful');
}
