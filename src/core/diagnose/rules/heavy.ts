import type { Kind } from '../../model';
import { formatBytes } from '../../wording';
import type { Rule } from '../finding';
import { called, indexes, sum } from '../say';

/** Bytes beyond which one thing of a kind is heavy: of what crossed the wire for images and fonts, decoded for code. */
const HEAVY = {
  script: {
    bytes: 300_000,
    of: 'bodyBytes',
    remedy: 'Split it, so that each page loads what it uses; see which libraries it carries.',
  },
  style: { bytes: 100_000, of: 'bodyBytes', remedy: 'Leave out rules that no page uses; load the rest by page.' },
  image: {
    bytes: 300_000,
    of: 'wireBytes',
    remedy: 'Send it in the size in which it is shown, as WebP or AVIF, by srcset.',
  },
  font: { bytes: 100_000, of: 'wireBytes', remedy: 'Send WOFF2, cut down to the characters that the pages use.' },
} as const satisfies Partial<Record<Kind, { bytes: number; of: 'bodyBytes' | 'wireBytes'; remedy: string }>>;

const ARTICLE = { script: 'a', style: 'a', image: 'an', font: 'a' } as const;

/** The rule for one kind of thing. */
function heavy(kind: keyof typeof HEAVY): Rule {
  const { bytes, of, remedy } = HEAVY[kind];
  return function* (subject) {
    const rows = subject.rows
      .filter((row) => row.kind === kind && (row[of] ?? 0) > bytes && row.source === 'network')
      .sort((a, b) => (b[of] ?? 0) - (a[of] ?? 0));
    const [first] = rows;
    if (first === undefined) return;
    yield {
      severity: 'wasteful',
      claim:
        rows.length === 1
          ? `${called(first)} is heavy for ${ARTICLE[kind]} ${kind}: ${formatBytes(first[of])}`
          : `${rows.length} ${kind}s are heavy, ${called(first)} the most: ${formatBytes(first[of])}`,
      detail: `More than ${formatBytes(bytes)} ${of === 'bodyBytes' ? 'decoded' : 'over the wire'} counts as heavy for ${ARTICLE[kind]} ${kind}.`,
      evidence: indexes(rows),
      cost: { wireBytes: sum(rows, (row) => Math.max(0, (row.wireBytes ?? 0) * (1 - bytes / (row[of] ?? bytes)))) },
      remedy,
      confidence: 'strong',
    };
  };
}

export const heavyScript = heavy('script');
export const heavyStyle = heavy('style');
export const heavyImage = heavy('image');
export const heavyFont = heavy('font');
