/** A table with its title, as it is copied. */
export interface TextTable {
  readonly title: string;
  readonly head: readonly string[];
  readonly rows: readonly (readonly string[])[];
  /** Columns of figures, by their places. */
  readonly figures: readonly number[];
}

/** A table as Markdown under its title, which reads as text, too. What writes it is loaded then. */
export async function tableAsText({ title, head, rows, figures }: TextTable): Promise<string> {
  const { blocksToMarkdown } = await import('#core/report');
  return blocksToMarkdown([
    { type: 'heading', text: title },
    { type: 'table', head, rows, rightAligned: new Set(figures) },
  ]);
}
