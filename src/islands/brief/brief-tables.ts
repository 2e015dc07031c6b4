import type { ExchangeRow } from '#core/analysis';
import type { PlottedLeg } from '#core/brief';
import { type Finding, findingsOn } from '#core/diagnose';
import type { PageId } from '#core/model';
import { exactMs, formatPlural } from '#core/wording';
import { type Found, findAsideKey } from '../capture/use-found';
import type { ExportTable } from '../export/exported';

/** The findings of a page as a table to be exported, the dismissed ones with their reason; none until they are there. */
export function findingTables(found: Found, page: PageId | undefined): readonly ExportTable[] {
  if (found.state !== 'there') return [];
  const { dismissed } = found;
  const findings = findingsOn(found.found, page);
  const reasonOf = (finding: Finding): string | undefined => {
    const key = findAsideKey(finding, dismissed);
    return key === undefined ? undefined : dismissed[key];
  };
  return [
    {
      what: formatPlural(findings.length, 'finding'),
      header: [
        'rule',
        'severity',
        'claim',
        'detail',
        'remedy',
        'routeMs',
        'wireBytes',
        'evidence',
        'confidence',
        'dismissed',
      ],
      rows: () =>
        findings.map((finding) => {
          const { rule, severity, claim, detail, remedy, cost, evidence, confidence } = finding;
          const places = evidence.map((index) => `#${index}`).join(' ');
          const reason = reasonOf(finding);
          return [
            rule,
            severity,
            claim,
            detail,
            remedy,
            exactMs(cost.routeMs),
            cost.wireBytes,
            places,
            confidence,
            reason,
          ];
        }),
    },
  ];
}

/** The legs of the route as a table to be exported, times in ms since the page's start. */
export function legTable(legs: readonly PlottedLeg[], rowOf: (index: number) => ExchangeRow | undefined): ExportTable {
  return {
    what: formatPlural(legs.length, 'leg'),
    header: ['leg', 'index', 'url', 'startMs', 'endMs'],
    rows: () =>
      legs.map((leg) => {
        const index = leg.type === 'exchange' ? leg.index : undefined;
        return [
          leg.type,
          index,
          index === undefined ? undefined : rowOf(index)?.url,
          exactMs(leg.startMs),
          exactMs(leg.endMs),
        ];
      }),
  };
}
