import type { ExchangeRow, Variation } from '#core/analysis';
import type { DelayName, VisitForecast } from '#core/cache';
import type { Corrections } from '#core/compare';
import type { CookieTrail } from '#core/content';
import type { FoundInCapture } from '#core/diagnose';
import type { KnownName } from '#core/filter';
import type { FindQuery } from '#core/find';
import {
  type CaptureCard,
  DIAGNOSED_HEADER,
  type ExchangeDossier,
  type ExchangeFrom,
  type ExchangesAnswer,
  type FindProgress,
  type ImportResult,
  type LoadAnswer,
  openBlocks,
  type PackedRows,
  type PackedTexts,
  type ProblemAnswer,
} from '#core/wire';

/** What came of asking the server: the value, or what is wrong in a sentence and what to do about it. */
export type Answer<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly problem: ProblemAnswer };

export const UNREACHABLE: ProblemAnswer = {
  code: 'unreachable',
  sentence: 'Trazado does not respond: it has probably been stopped.',
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

/** Browsers send no more than this on behalf of a page that is gone (Fetch Standard, 4.6). */
const MOST_BYTES_WHILE_LEAVING = 60_000;

/** A write of JSON. @param isLeaving sent on behalf of the page also once it is gone, if it is short enough */
export function written(method: 'PUT' | 'PATCH', value: unknown, isLeaving: boolean): RequestInit {
  const body = JSON.stringify(value);
  const isShort = (): boolean => new TextEncoder().encode(body).length < MOST_BYTES_WHILE_LEAVING;
  return { method, headers: { 'content-type': 'application/json' }, body, keepalive: isLeaving && isShort() };
}

export async function request<T>(path: string, options?: RequestInit): Promise<Answer<T>> {
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

/** The exchanges, and whether their bodies had been read when they were given. */
export interface FetchedRows {
  readonly rows: readonly ExchangeRow[];
  readonly isDiagnosed: boolean;
}

export async function fetchRows(id: string): Promise<Answer<FetchedRows>> {
  const answer = await requestBytes(`/api/captures/${id}/exchanges`);
  if (!answer.ok) return answer;
  const { bytes, headers } = answer.value;
  const rows: ExchangeRow[] = [];
  let since = performance.now();
  for (const block of openBlocks(bytes)) {
    rows.push(...block.rows());
    if (performance.now() - since < UNPACKED_AT_ONCE_MS) continue;
    // A hundred thousand rows take a while: what the user does meanwhile is heard between two blocks.
    await new Promise((resolve) => setTimeout(resolve));
    since = performance.now();
  }
  return { ok: true, value: { rows, isDiagnosed: headers.get(DIAGNOSED_HEADER) === 'true' } };
}
const UNPACKED_AT_ONCE_MS = 12;

/** The exchanges of a capture, still packed. */
export const fetchPackedRows = (id: string): Promise<Answer<PackedRows>> => fetchBytes(`/api/captures/${id}/exchanges`);

export const fetchDossier = (id: string, place: number): Promise<Answer<ExchangeDossier>> =>
  request(`/api/captures/${id}/exchanges/${place}`);

export const bodyAddress = (id: string, place: number): string => `/api/captures/${id}/exchanges/${place}/body`;

export const fetchStorage = (): Promise<Answer<{ bytes: number; freeBytes: number }>> => request('/api/storage');

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

/** Values of headers and cookies for every exchange, by their names in a filter. */
export const fetchColumns = (id: string, names: readonly string[]): Promise<Answer<Record<string, PackedTexts>>> =>
  request(`/api/captures/${id}/columns?${names.map((name) => `name=${encodeURIComponent(name)}`).join('&')}`);

/** The headers and cookies that a capture has. */
export const fetchNames = (id: string): Promise<Answer<KnownName[]>> => request(`/api/captures/${id}/names`);

/** What the user set, each under its name. */
export type SettingName = 'filters' | 'targets' | 'handOffs';

/** A setting; null where it was never set. */
export const fetchSetting = <T>(name: SettingName): Promise<Answer<T | null>> => request(`/api/settings/${name}`);

export const writeSetting = (name: SettingName, value: unknown, isLeaving = false): Promise<Answer<unknown>> =>
  request(`/api/settings/${name}`, written('PUT', value, isLeaving));

/** A capture that holds just these exchanges, as they were recorded. */
export const exportHar = (id: string, places?: readonly number[]): Promise<Answer<Blob>> =>
  requestFile(`/api/captures/${id}/har`, ordering(places));

/** The bodies of these exchanges as a zip, with the paths that the site has. */
export const exportBodies = (id: string, places: readonly number[]): Promise<Answer<Blob>> =>
  requestFile(`/api/captures/${id}/bodies`, ordering(places));

const ordering = (places: readonly number[] | undefined): RequestInit => ({
  method: 'POST',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ places }),
});

/** A file that the server gives. */
export async function requestFile(path: string, options?: RequestInit): Promise<Answer<Blob>> {
  try {
    const answer = await fetch(path, options);
    if (!answer.ok) return { ok: false, problem: readProblem(await answer.text()) };
    return { ok: true, value: await answer.blob() };
  } catch {
    return { ok: false, problem: UNREACHABLE };
  }
}

/** Searches a capture and hears what is found as it is found. Gives the problem where the search could not be asked for. */
export async function streamFind(
  id: string,
  query: FindQuery,
  hear: (message: FindProgress) => void,
  signal: AbortSignal,
): Promise<string | undefined> {
  const { text, isRegex, matchesCase, wholeWord } = query;
  const asked = new URLSearchParams({
    text,
    regex: String(isRegex),
    case: String(matchesCase),
    word: String(wholeWord),
  });
  const answer = await requestLines<FindProgress>(`/api/captures/${id}/find?${asked}`, { signal }, hear);
  return answer.ok || signal.aborted ? undefined : answer.problem.sentence;
}

/** Asks for lines of JSON and hands each on as it comes. */
export async function requestLines<T>(
  path: string,
  options: RequestInit & { readonly signal: AbortSignal },
  hear: (message: T) => void,
): Promise<Answer<undefined>> {
  const { signal } = options;
  try {
    const answer = await fetch(path, options);
    if (!answer.ok || answer.body === null) return { ok: false, problem: readProblem(await answer.text()) };
    const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
    let rest = '';
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return { ok: true, value: undefined };
      const lines = (rest + value).split('\n');
      rest = lines.pop() ?? '';
      for (const line of lines) if (!signal.aborted) hear(JSON.parse(line) as T);
    }
  } catch {
    return { ok: false, problem: UNREACHABLE };
  }
}

/** What the rules found in a capture, or that its bodies are still being read. */
export type FoundAnswer =
  | { readonly state: 'reading' }
  | (FoundInCapture & {
      readonly state: 'there';
      /** Reasons for which findings were dismissed, by their keys. */
      readonly dismissed: Readonly<Record<string, string>>;
    });

export const fetchFindings = (id: string): Promise<Answer<FoundAnswer>> => request(`/api/captures/${id}/findings`);

/** Dismisses a finding for a reason; without one it is restored. Gives all that are dismissed. */
export const dismissFinding = (
  id: string,
  key: string,
  reason: string | null,
): Promise<Answer<Record<string, string>>> =>
  request(`/api/captures/${id}/findings`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ key, reason }),
  });

/** The bytes of a body. */
export async function fetchBytes(address: string): Promise<Answer<Uint8Array<ArrayBuffer>>> {
  const answer = await requestBytes(address);
  return answer.ok ? { ok: true, value: answer.value.bytes } : answer;
}

async function requestBytes(
  address: string,
): Promise<Answer<{ readonly bytes: Uint8Array<ArrayBuffer>; readonly headers: Headers }>> {
  try {
    const answer = await fetch(address);
    if (!answer.ok) return { ok: false, problem: readProblem(await answer.text()) };
    return { ok: true, value: { bytes: new Uint8Array(await answer.arrayBuffer()), headers: answer.headers } };
  } catch {
    return { ok: false, problem: UNREACHABLE };
  }
}

/** What varies and what stays over these calls, in the order given. */
export const fetchVariation = (id: string, places: readonly number[]): Promise<Answer<Variation>> =>
  request(`/api/captures/${id}/variation?${places.map((place) => `place=${place}`).join('&')}`);

/** Two exchanges from anywhere, compared with each other part by part. */
export const fetchComparison = (here: ExchangeFrom, there: ExchangeFrom): Promise<Answer<ExchangesAnswer>> =>
  request('/api/compare/exchanges', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ here, there }),
  });

/** A capture as a comparison needs it. @param afterSeconds so long after it the other visit began */
export const fetchLoad = (id: string, afterSeconds?: number): Promise<Answer<LoadAnswer>> =>
  request(`/api/captures/${id}/load${afterSeconds === undefined ? '' : `?after=${afterSeconds}`}`);

const correctionsAddress = (a: string, b: string): string =>
  `/api/compare/corrections?a=${encodeURIComponent(a)}&b=${encodeURIComponent(b)}`;

/** What was corrected in the matching of two captures. */
export const fetchCorrections = (a: string, b: string): Promise<Answer<Corrections>> =>
  request(correctionsAddress(a, b));

/** Says that two exchanges are the same, or are not; null takes that back. */
export const correctMatch = (
  captures: { readonly a: string; readonly b: string },
  correction: { readonly a: number; readonly b: number; readonly isSame: boolean | null },
): Promise<Answer<Corrections>> =>
  request(correctionsAddress(captures.a, captures.b), {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(correction),
  });

/** Cookies followed through their capture, from an exchange on. */
export const fetchCookieTrails = (id: string, from: number, names: readonly string[]): Promise<Answer<CookieTrail[]>> =>
  request(
    `/api/captures/${id}/cookies?from=${from}&${names.map((name) => `name=${encodeURIComponent(name)}`).join('&')}`,
  );

/** What a page's exchanges come to on the next visit, after each delay. */
export const fetchForecast = (
  id: string,
  page: string | undefined,
): Promise<Answer<Record<DelayName, VisitForecast>>> =>
  request(`/api/captures/${id}/forecast${page === undefined ? '' : `?page=${encodeURIComponent(page)}`}`);
