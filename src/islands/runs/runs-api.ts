import type { KeptDraft } from '#core/sheet';
import { packKept } from '#core/sheet';
import type { Run, RunAnswer, RunOrder, RunSeen, SendLeave } from '#core/wire';
import { type Answer, request } from '../state/api';

const JSON_TYPE = { 'content-type': 'application/json' };
const runsOf = (id: string, draft: string): string => `/api/captures/${id}/drafts/${draft}/runs`;

/** The runs of a draft, the newest first. */
export const fetchRuns = (id: string, draft: string): Promise<Answer<Run[]>> => request(runsOf(id, draft));

/** Begins a run of a draft as it is now, or hears what has to be allowed first. */
export const beginRun = (id: string, kept: KeptDraft, order: RunOrder, leave: SendLeave): Promise<Answer<RunAnswer>> =>
  request(runsOf(id, kept.id), {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify({ kept: packKept(kept), order, leave }),
  });

/** A run with its steps behind a number. */
export const fetchRun = (id: string, { draft, id: run }: Run, after: number): Promise<Answer<RunSeen>> =>
  request(`${runsOf(id, draft)}/${run}?after=${after}`);

export const changeRun = (
  id: string,
  { draft, id: run }: Run,
  change: { readonly does?: 'pause' | 'go-on'; readonly deleted?: boolean },
): Promise<Answer<Run>> =>
  request(`${runsOf(id, draft)}/${run}`, { method: 'PATCH', headers: JSON_TYPE, body: JSON.stringify(change) });

export interface RowsChoice {
  readonly form: 'csv' | 'json' | 'lines' | 'repeated';
  /** What the column of the value is called that each row came from; absent where none is wanted. */
  readonly from?: string | undefined;
  readonly once: boolean;
}

/** Where the gathered rows of a series are had. */
export function rowsAddress(id: string, { draft, id: run }: Run, { form, from, once }: RowsChoice): string {
  const query = new URLSearchParams({ form });
  if (from !== undefined) query.set('from', from);
  if (once) query.set('once', 'yes');
  return `${runsOf(id, draft)}/${run}/rows?${query}`;
}

/** How many of the gathered rows were there already. */
export const fetchRepeated = (id: string, run: Run): Promise<Answer<number>> =>
  request(rowsAddress(id, run, { form: 'repeated', once: false }));
