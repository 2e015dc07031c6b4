import type { ExchangeRow, PageOverview } from '#core/analysis';
import type { Finding } from '#core/diagnose';
import { blocksToMarkdown, type ReportPart, reportToMarkdown, tellFinding, writeReport } from '#core/report';
import type { CaptureCard } from '#core/wire';
import type { Found } from '../capture/use-found';
import { $marks } from '../marks/marks-store';

/** What of a brief is copied. */
interface BriefOf {
  readonly card: CaptureCard;
  readonly rows: readonly ExchangeRow[];
  readonly found: Found | undefined;
  readonly page: PageOverview | undefined;
}

const WHOLE: readonly ReportPart[] = ['figures', 'route', 'ledger', 'findings'];

/** The brief as Markdown, which reads as text: title, sentence, figures, route, ledger, findings. */
export const briefAsText = (of: BriefOf): string => reportToMarkdown(documentOf(of, WHOLE));

/** One table of it, with its heading. */
export function partAsText(of: BriefOf, part: ReportPart): string {
  const { blocks } = documentOf(of, [part]);
  return blocksToMarkdown(blocks.slice(blocks.findIndex(({ type }) => type === 'heading')));
}

/** A finding as a paragraph. */
export const findingAsText = (finding: Finding): string => tellFinding(finding);

function documentOf({ card, rows, found, page }: BriefOf, parts: readonly ReportPart[]) {
  const named = (name: string | undefined) => (name === undefined ? undefined : { name, version: undefined });
  return writeReport({
    name: card.name,
    capture: {
      recorder: named(card.recorder),
      browser: named(card.browser),
      utcOffsetMinutes: card.utcOffsetMinutes,
    },
    rows,
    overview: card.overview,
    found: found?.state === 'there' ? found.found : { findings: [], byPage: {} },
    page,
    notes: [],
    comparison: undefined,
    parts: new Set(parts),
    marks: [...$marks.get().byTarget.values()],
    noted: [],
    sent: [],
    inflate: () => undefined,
  });
}
