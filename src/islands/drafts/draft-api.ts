import { type KeptDraft, type PackedKeptDraft, packKept, unpackKept } from '#core/convert';
import { type Answer, request } from '../state/api';

export async function fetchDrafts(id: string): Promise<Answer<KeptDraft[]>> {
  const answer = await request<PackedKeptDraft[]>(`/api/captures/${id}/drafts`);
  return answer.ok ? { ok: true, value: answer.value.map(unpackKept) } : answer;
}

/** Browsers send no more than this on behalf of a page that is gone (Fetch Standard, 4.6). */
const MOST_WHILE_LEAVING = 60_000;

/** Keeps a draft as it is now. */
export function keepDraft(id: string, kept: KeptDraft, isLeaving = false): Promise<Answer<unknown>> {
  const body = JSON.stringify(packKept(kept));
  return request(`/api/captures/${id}/drafts/${kept.id}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body,
    keepalive: isLeaving && body.length < MOST_WHILE_LEAVING,
  });
}

export const dropDraft = (id: string, draft: string): Promise<Answer<unknown>> =>
  request(`/api/captures/${id}/drafts/${draft}`, { method: 'DELETE' });
