import { draftFromExchange } from '#core/convert';
import { goTo } from '../state/address';
import { fetchDossier } from '../state/api';
import { tell } from '../state/notices';
import { keepDraft } from './draft-api';
import { $loopPreset, type LoopPreset } from './LoopChoice';
import { newDraft } from './use-drafts';

/** Begins a draft from a captured request and goes to it. */
export async function openDraft(captureId: string, index: number, loop?: LoopPreset): Promise<void> {
  const answer = await fetchDossier(captureId, index);
  if (!answer.ok) {
    tell(answer.problem.sentence, { detail: answer.problem.advice });
    return;
  }
  const draft = draftFromExchange(answer.value.exchange, 'faithful');
  const path = draft.url.replace(/^[a-z]+:\/\/[^/?]*/i, '').split('?', 1)[0] ?? '';
  const kept = newDraft(`${draft.method} ${path.split('/').at(-1) || path} (#${index})`, draft, index);
  const written = await keepDraft(captureId, kept);
  if (!written.ok) {
    tell(written.problem.sentence, { detail: written.problem.advice });
    return;
  }
  $loopPreset.set(loop);
  goTo({ view: 'drafts', draft: kept.id, isOpen: false });
}
