import type { ExchangePreview, HandOffChoice } from '#core/redact';
import type { ReportFormat, ReportPart } from '#core/report';
import type { HandOffOrder, HandOffProgress, ReportProgress } from '#core/wire';
import { type Answer, request, requestFile, requestLines, written } from '../state/api';

const JSON_TYPE = { 'content-type': 'application/json' };

const addressOf = (captureId: string): string => `/api/captures/${captureId}/hand-off`;

/** What was chosen to leave, and to be inked out, when this capture's hand-off was looked at last. */
export const fetchChoice = (captureId: string): Promise<Answer<HandOffChoice>> =>
  request(`${addressOf(captureId)}/choice`);

export const writeChoice = (
  captureId: string,
  choice: HandOffChoice,
  isLeaving = false,
): Promise<Answer<HandOffChoice>> => request(`${addressOf(captureId)}/choice`, written('PUT', choice, isLeaving));

/** Has what leaves made, and hears how it goes. */
export const makeHandOff = (
  captureId: string,
  order: HandOffOrder,
  hear: (message: HandOffProgress) => void,
  signal: AbortSignal,
): Promise<Answer<undefined>> => requestLines(addressOf(captureId), posted(order, signal), hear);

/** What a report is asked for with. */
export interface ReportAsked {
  readonly choice: HandOffChoice;
  readonly page: number | undefined;
  readonly comparedWith: string | undefined;
  readonly parts: readonly ReportPart[];
  readonly format: ReportFormat;
  readonly notes: readonly string[];
}

export const makeReport = (
  captureId: string,
  asked: ReportAsked,
  hear: (message: ReportProgress) => void,
  signal: AbortSignal,
): Promise<Answer<undefined>> => requestLines(`/api/captures/${captureId}/report`, posted(asked, signal), hear);

const posted = (body: unknown, signal: AbortSignal) => ({
  method: 'POST',
  headers: JSON_TYPE,
  body: JSON.stringify(body),
  signal,
});

/** An exchange as it leaves. */
export const fetchPreview = (captureId: string, made: string, place: number): Promise<Answer<ExchangePreview>> =>
  request(`${addressOf(captureId)}/${made}/exchanges/${place}`);

/** A report as a page of its own, which a frame may show. */
export const reportAddress = (captureId: string, id: string): string => `/api/captures/${captureId}/report/${id}`;

/** The file that leaves. */
export const fetchMade = (captureId: string, made: string): Promise<Answer<Blob>> =>
  requestFile(`${addressOf(captureId)}/${made}/har`);
