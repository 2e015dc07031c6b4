import {
  type KeptDraft,
  type PackedKeptDraft,
  packKept,
  type SharedVariable,
  unpackKept,
  type VariablesChange,
  withVariables,
} from '#core/sheet';
import type { Held, Measure, SendLeave, SentSheet, Trial, TrialAnswer, TrialProgress, ValueOrigin } from '#core/wire';
import { type Answer, request, requestLines, UNREACHABLE, written } from '../state/api';

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

const JSON_TYPE = { 'content-type': 'application/json' };

/** Keeps a draft as it is now. */
export const keepDraft = (id: string, kept: KeptDraft, isLeaving = false): Promise<Answer<unknown>> =>
  request(`/api/captures/${id}/drafts/${kept.id}`, written('PUT', packKept(kept), isLeaving));

export const dropDraft = (id: string, draft: string, isLeaving = false): Promise<Answer<unknown>> =>
  request(`/api/captures/${id}/drafts/${draft}`, { method: 'DELETE', keepalive: isLeaving });

/** Changes variables that drafts share; gives all of them as they are then, those that another page set too. */
export async function keepVariables(
  id: string,
  change: VariablesChange,
  isLeaving = false,
): Promise<Answer<readonly SharedVariable[]>> {
  const answer = await request<{ variables: SharedVariable[] }>(
    `/api/captures/${id}/variables`,
    written('PATCH', change, isLeaving),
  );
  return answer.ok ? { ok: true, value: answer.value.variables } : answer;
}

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

/** Sends a draft once, as it is now; hears how much of the response has come. */
export async function sendDraft(
  id: string,
  kept: KeptDraft,
  leave: SendLeave,
  signal: AbortSignal,
  onBytes: (receivedBytes: number) => void = () => undefined,
): Promise<Answer<TrialAnswer>> {
  const ended: Answer<TrialAnswer>[] = [];
  const heard = await requestLines<TrialProgress>(
    trialsOf(id, kept.id),
    {
      method: 'POST',
      headers: { ...JSON_TYPE, accept: 'application/x-ndjson' },
      body: JSON.stringify({ kept: packKept(kept), leave }),
      signal,
    },
    (progress) => {
      if (progress.type === 'receiving') onBytes(progress.receivedBytes);
      else if (progress.type === 'ended') ended.push({ ok: true, value: progress.answer });
      else ended.push({ ok: false, problem: progress.problem });
    },
  );
  if (!heard.ok) return heard;
  return ended[0] ?? { ok: false, problem: UNREACHABLE };
}

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
