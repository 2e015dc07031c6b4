import { formatBytes } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, sum } from '../say';

/** What makes one thing of a kind heavy. */
export interface Heavy {
  readonly kind: 'script' | 'style' | 'image' | 'font';
  /** From here on it is: of what crossed the wire, or decoded. */
  readonly bytes: number;
  readonly of: 'bodyBytes' | 'wireBytes';
  readonly remedy: string;
}

const ARTICLE: Record<Heavy['kind'], string> = { script: 'a', style: 'a', image: 'an', font: 'a' };

/** The rule for one kind of thing. */
export function heavy({ kind, bytes, of, remedy }: Heavy): Rule {
  return function* (subject) {
    const rows = subject.rows
      .filter((row) => row.kind === kind && (row[of] ?? 0) > bytes && row.source === 'network')
      .sort((a, b) => (b[of] ?? 0) - (a[of] ?? 0));
    const [first] = rows;
    if (first === undefined) return;
    yield {
      severity: 'costly',
      claim:
        rows.length === 1
          ? `${called(first)} is heavy for ${ARTICLE[kind]} ${kind}: ${formatBytes(first[of])}`
          : `${rows.length} ${kind}s are heavy, ${called(first)} the most: ${formatBytes(first[of])}`,
      detail: `More than ${formatBytes(bytes)} ${of === 'bodyBytes' ? 'decoded' : 'on the wire'} counts as heavy for ${ARTICLE[kind]} ${kind}.`,
      evidence: indexes(rows),
      changes: rows.map((row) => ({
        type: 'download-share',
        indexes: new Set([row.index]),
        share: Math.min(1, bytes / (row[of] ?? bytes)),
      })),
      wireBytes: sum(rows, (row) => Math.max(0, (row.wireBytes ?? 0) * (1 - bytes / (row[of] ?? bytes)))),
      remedy,
      confidence: 'strong',
    };
  };
}
