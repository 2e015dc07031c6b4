import type { ExchangeRow } from '#core/analysis';
import {
  type CaptureCard,
  type ExchangeDossier,
  type ImportResult,
  type PackedRows,
  type ProblemAnswer,
  unpackRows,
} from '#core/wire';

/** What came of asking the server: the value, or what is wrong in a sentence and what to do about it. */
export type Answer<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly problem: ProblemAnswer };

const UNREACHABLE: ProblemAnswer = {
  code: 'unreachable',
  sentence: 'Trazado does not answer: it has probably been stopped.',
  advice: 'Start it again in its terminal, then try once more.',
};

/** Reads an answer's body as a problem; what is no such answer reads as the server being away. */
export function readProblem(text: string): ProblemAnswer {
  try {
    const { code, sentence, advice } = JSON.parse(text) as ProblemAnswer;
    if (typeof sentence === 'string' && typeof advice === 'string') return { code, sentence, advice };
  } catch {
    // Not JSON: it does not come from our own server.
  }
  return UNREACHABLE;
}

async function request<T>(path: string, options?: RequestInit): Promise<Answer<T>> {
  try {
    const answer = await fetch(path, options);
    if (!answer.ok) return { ok: false, problem: readProblem(await answer.text()) };
    return { ok: true, value: (await answer.json()) as T };
  } catch {
    return { ok: false, problem: UNREACHABLE };
  }
}

export const fetchCaptures = (): Promise<Answer<CaptureCard[]>> => request('/api/captures');

export const fetchCapture = (id: string): Promise<Answer<CaptureCard>> => request(`/api/captures/${id}`);

export async function fetchRows(id: string): Promise<Answer<ExchangeRow[]>> {
  const answer = await request<PackedRows>(`/api/captures/${id}/exchanges`);
  return answer.ok ? { ok: true, value: unpackRows(answer.value) } : answer;
}

export const fetchDossier = (id: string, place: number): Promise<Answer<ExchangeDossier>> =>
  request(`/api/captures/${id}/exchanges/${place}`);

export const bodyAddress = (id: string, place: number): string => `/api/captures/${id}/exchanges/${place}/body`;

export const fetchStorage = (): Promise<Answer<{ bytes: number }>> => request('/api/storage');

/** Has the server take in a file that lies on its own machine. */
export const takeInLocal = (path: string): Promise<Answer<ImportResult[]>> =>
  request('/api/captures/local', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ path }),
  });

export const changeCapture = (
  id: string,
  change: { name?: string; note?: string; deleted?: boolean },
): Promise<Answer<unknown>> =>
  request(`/api/captures/${id}`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(change),
  });
