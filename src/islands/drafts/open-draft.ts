import { draftFromExchange, FIRST_LOOP, type LoopFields, suggestLoop } from '#core/convert';
import { findResponse } from '#core/model';
import { goTo } from '../state/address';
import { fetchDossier } from '../state/api';
import { tell } from '../state/notices';
import { fetchDrafts, keepDraft } from './draft-api';
import { capturedDraftName, freeDraftName, newDraft } from './use-drafts';

/**
 * Begins a draft from a captured request and goes to it.
 * @param loop what it is to do beyond one request, as far as the place that it is begun from tells
 */
export async function openDraft(captureId: string, index: number, loop: Partial<LoopFields> = {}): Promise<void> {
  const [answer, others] = await Promise.all([fetchDossier(captureId, index), fetchDrafts(captureId)]);
  if (!answer.ok) {
    tell(answer.problem.sentence, { detail: answer.problem.advice });
    return;
  }
  const { exchange, body } = answer.value;
  const draft = draftFromExchange(exchange, 'faithful');
  const name = capturedDraftName(draft, index);
  const text = body.kind === 'json' && !body.isCut ? body.text : undefined;
  const suggested = suggestLoop({ text, headers: findResponse(exchange)?.headers }, draft);
  const kept = {
    ...newDraft(freeDraftName(name, others.ok ? others.value.drafts : []), draft, index),
    loop: { ...FIRST_LOOP, ...suggested, ...loop },
  };
  const written = await keepDraft(captureId, kept);
  if (!written.ok) {
    tell(written.problem.sentence, { detail: written.problem.advice });
    return;
  }
  goTo({ view: 'drafts', draft: kept.id, isOpen: false });
}
