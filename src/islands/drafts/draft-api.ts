import { type KeptDraft, type PackedKeptDraft, packKept, unpackKept } from '#core/convert';
import { type Answer, request } from '../state/api';

export async function fetchDrafts(id: string): Promise<Answer<KeptDraft[]>> {
  const answer = await request<PackedKeptDraft[]>(`/api/captures/${id}/drafts`);
  return answer.ok ? { ok: true, value: answer.value.map(unpackKept) } : answer;
}

/** Keeps a draft as it is now. */
export const keepDraft = (id: string, kept: KeptDraft): Promise<Answer<unknown>> =>
  request(`/api/captures/${id}/drafts/${kept.id}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(packKept(kept)),
  });

export const dropDraft = (id: string, draft: string): Promise<Answer<unknown>> =>
  request(`/api/captures/${id}/drafts/${draft}`, { method: 'DELETE' });
