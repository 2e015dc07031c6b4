/** A part of a report, told apart from how it is written. Texts are as captured: writers escape them. */
export type Block =
  | { readonly type: 'heading'; readonly text: string }
  | { readonly type: 'text'; readonly text: string }
  | { readonly type: 'list'; readonly items: readonly string[] }
  | {
      readonly type: 'table';
      readonly head: readonly string[];
      readonly rows: readonly (readonly string[])[];
      readonly rightAligned: ReadonlySet<number>;
    }
  /** Lines whose columns stand below one another. */
  | { readonly type: 'lines'; readonly lines: readonly string[] }
  /** What somebody noted on what stands before it. */
  | { readonly type: 'note'; readonly text: string }
  /** A picture that was captured, as its bytes. */
  | { readonly type: 'picture'; readonly mimeType: string; readonly base64: string; readonly alternative: string }
  /** A chart, and the sentence that says what it shows to those who do not see it. */
  | { readonly type: 'chart'; readonly svg: string; readonly alternative: string };

export interface ReportDocument {
  readonly title: string;
  readonly blocks: readonly Block[];
}

/** How a report is written. */
export const REPORT_FORMATS = ['html', 'md'] as const;
export type ReportFormat = (typeof REPORT_FORMATS)[number];
