import {
  type KeptDraft,
  type PackedKeptDraft,
  packKept,
  type SharedVariable,
  unpackKept,
  withVariables,
} from '#core/sheet';
import type { Held, Measure, SendLeave, SentSheet, Trial, TrialAnswer, ValueOrigin } from '#core/wire';
import { type Answer, request } from '../state/api';

/** The drafts of a capture, and the variables that they share. */
export interface KeptDrafts {
  readonly drafts: readonly KeptDraft[];
  readonly variables: readonly SharedVariable[];
}

export async function fetchDrafts(id: string): Promise<Answer<KeptDrafts>> {
  const answer = await request<{ drafts: PackedKeptDraft[]; variables: SharedVariable[] }>(
    `/api/captures/${id}/drafts`,
  );
  if (!answer.ok) return answer;
  const { drafts, variables } = answer.value;
  return { ok: true, value: { drafts: drafts.map((kept) => withVariables(unpackKept(kept), variables)), variables } };
}

/** Browsers send no more than this on behalf of a page that is gone (Fetch Standard, 4.6). */
const MOST_WHILE_LEAVING = 60_000;

const JSON_TYPE = { 'content-type': 'application/json' };

/** Keeps a draft as it is now. */
export function keepDraft(id: string, kept: KeptDraft, isLeaving = false): Promise<Answer<unknown>> {
  const body = JSON.stringify(packKept(kept));
  return request(`/api/captures/${id}/drafts/${kept.id}`, {
    method: 'PUT',
    headers: JSON_TYPE,
    body,
    keepalive: isLeaving && body.length < MOST_WHILE_LEAVING,
  });
}

export const dropDraft = (id: string, draft: string): Promise<Answer<unknown>> =>
  request(`/api/captures/${id}/drafts/${draft}`, { method: 'DELETE' });

export const keepVariables = (id: string, variables: readonly SharedVariable[]): Promise<Answer<unknown>> =>
  request(`/api/captures/${id}/variables`, {
    method: 'PUT',
    headers: JSON_TYPE,
    body: JSON.stringify({ variables }),
  });

/** Where the capture shows that a value of a request came from; null where it does not. */
export const fetchOrigin = (id: string, before: number, value: string): Promise<Answer<ValueOrigin | null>> =>
  request(`/api/captures/${id}/origin`, {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify({ before, value }),
  });

const trialsOf = (id: string, draft: string): string => `/api/captures/${id}/drafts/${draft}/trials`;

/** The trials of a draft, the newest first. */
export const fetchTrials = (id: string, draft: string): Promise<Answer<Trial[]>> => request(trialsOf(id, draft));

/** Sends a draft once, as it is now. */
export const sendDraft = (
  id: string,
  kept: KeptDraft,
  leave: SendLeave,
  signal: AbortSignal,
): Promise<Answer<TrialAnswer>> =>
  request(trialsOf(id, kept.id), {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify({ kept: packKept(kept), leave }),
    signal,
  });

/** A trial held against the captured response, or that of another trial. */
export const fetchHeld = (id: string, kept: KeptDraft, number: number, against: Measure): Promise<Answer<Held>> =>
  request(`${trialsOf(id, kept.id)}/${number}/held`, {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify({ kept: packKept(kept), against }),
  });

export const fetchSentSheet = (id: string, draft: string, number: number): Promise<Answer<SentSheet>> =>
  request(`${trialsOf(id, draft)}/${number}`);

export const changeTrial = (
  id: string,
  draft: string,
  number: number,
  change: { readonly note?: string; readonly deleted?: boolean },
): Promise<Answer<unknown>> =>
  request(`${trialsOf(id, draft)}/${number}`, { method: 'PATCH', headers: JSON_TYPE, body: JSON.stringify(change) });
