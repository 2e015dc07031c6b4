import type { Preset } from '#core/convert';
import { formatPlural } from '#core/wording';
import { fetchDossier } from '../state/api';
import { tell } from '../state/notices';
import { copyText } from '../ui/copy';

/** Puts an exchange's curl command on the clipboard and says what was left out of it. */
export async function copyCurl(captureId: string, index: number, preset: Preset): Promise<void> {
  const answer = await fetchDossier(captureId, index);
  if (!answer.ok) {
    tell(answer.problem.sentence, { detail: answer.problem.advice });
    return;
  }
  // Conversion is loaded when it is first asked for: the chart does not need it.
  const { draftFromExchange, findTarget } = await import('#core/convert');
  const draft = draftFromExchange(answer.value.exchange, preset);
  const target = findTarget('curl-sh');
  if (target === undefined) throw new Error('the curl target is gone');
  const { text, warnings } = target.render(draft);
  if (!(await copyText(text))) {
    tell('Could not write to the clipboard.', {
      detail: 'Allow this page to use the clipboard, then press c again.',
    });
    return;
  }
  const leftOut = draft.headers.filter((header) => !header.kept && header.role !== 'computed');
  const named = leftOut.map(({ name }) => name.toLowerCase());
  const shown =
    named.length > NAMES_SHOWN ? [...named.slice(0, NAMES_SHOWN), `${named.length - NAMES_SHOWN} more`] : named;
  const left = named.length === 0 ? [] : [`Left out: ${shown.join(', ')}.`];
  const kept = formatPlural(draft.headers.filter((header) => header.kept).length, 'header');
  tell(`Copied #${index} as a curl command with ${kept}.`, { detail: [...warnings, ...left].join(' ') });
}

const NAMES_SHOWN = 4;
