import type { ExchangePreview } from '#core/redact';
import type { ReportFormat, ReportPart } from '#core/report';
import type { HandOffOrder, HandOffProgress, ReportProgress } from '#core/wire';

/** A capture that is on the shelf. */
export interface NamedCapture {
  readonly captureId: string;
  readonly name: string;
}

/** A report that is asked for: of a page counted from 1, or of the first that has exchanges. */
export interface ReportJob {
  readonly of: NamedCapture & { readonly page: number | undefined };
  readonly comparedWith: NamedCapture | undefined;
  readonly parts: readonly ReportPart[];
  readonly format: ReportFormat;
  readonly notes: readonly string[];
}

/** What a thread is started for. */
export type HandOffTask = { readonly id: string } & (
  | { readonly task: 'capture'; readonly of: NamedCapture; readonly order: HandOffOrder }
  | { readonly task: 'report'; readonly job: ReportJob; readonly order: HandOffOrder }
);

/** It works in a folder of its own, which is removed with it. */
export type HandOffWorkerData = HandOffTask & { readonly dataFolder: string; readonly folder: string };

/** Asks a thread that has made a capture for one of its exchanges. */
export interface ToHandOffWorker {
  readonly question: number;
  readonly place: number;
}

export type FromHandOffWorker =
  | HandOffProgress
  | ReportProgress
  | { readonly type: 'preview'; readonly question: number; readonly preview: ExchangePreview | undefined };
