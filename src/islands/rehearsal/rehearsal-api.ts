import type { Rehearsal, RehearsalOrder, RehearsalSeen, ResponseVariant } from '#core/wire';
import { type Answer, request, written } from '../state/api';

const JSON_TYPE = { 'content-type': 'application/json' };
const at = (captureId: string): string => `/api/captures/${captureId}/rehearsals`;

/** The rehearsals of a capture, the newest first. */
export const fetchRehearsals = (captureId: string): Promise<Answer<Rehearsal[]>> => request(at(captureId));

/** Those that run, of whichever capture. */
export const fetchRunning = (): Promise<Answer<Rehearsal[]>> => request('/api/rehearsals');

export const beginRehearsal = (captureId: string, order: RehearsalOrder): Promise<Answer<Rehearsal>> =>
  request(at(captureId), { method: 'POST', headers: JSON_TYPE, body: JSON.stringify(order) });

/** A rehearsal with what it was asked behind a number. */
export const fetchRehearsal = ({ captureId, id }: Rehearsal, after: number): Promise<Answer<RehearsalSeen>> =>
  request(`${at(captureId)}/${id}?after=${after}`);

export const changeRehearsal = (
  { captureId, id }: Rehearsal,
  change: { readonly does?: 'stop' | 'rewind'; readonly deleted?: boolean },
): Promise<Answer<Rehearsal>> =>
  request(`${at(captureId)}/${id}`, { method: 'PATCH', headers: JSON_TYPE, body: JSON.stringify(change) });

export const fetchVariants = (captureId: string): Promise<Answer<ResponseVariant[]>> =>
  request(`/api/captures/${captureId}/variants`);

export const writeVariants = (
  captureId: string,
  variants: readonly ResponseVariant[],
  isLeaving: boolean,
): Promise<Answer<ResponseVariant[]>> =>
  request(`/api/captures/${captureId}/variants`, written('PUT', { variants }, isLeaving));
