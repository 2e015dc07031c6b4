import { savedShare } from '#core/analysis';
import { formatBytes, formatInstant, formatMs, formatPlural, formatShare, formatZone } from '#core/wording';
import { type AnalysedFile, analyseFile } from '#server/capture-file';
import { withInput } from '../input';
import { printJson, printLines } from '../output';

export async function summary(file: string, options: { json?: true }): Promise<void> {
  const analysed = await withInput(file, analyseFile);
  if (options.json === true) printJson(toJson(analysed));
  else printLines(toText(analysed));
}

function toJson({ overview, end }: AnalysedFile): unknown {
  const { recorder, browser, utcOffsetMinutes } = end.capture;
  return {
    recorder,
    browser,
    recordedAt: toIso(overview.recordedAt),
    utcOffsetMinutes,
    pages: overview.pages.map(({ id, title, startedAt, domReadyMs, loadedMs, exchanges }) => ({
      id,
      title,
      startedAt: toIso(startedAt),
      domReadyMs,
      loadedMs,
      exchanges,
    })),
    ...overview.tally,
    ...overview.breakdown,
    condition: overview.condition,
  };
}

const toIso = (epoch: number | undefined): string | undefined =>
  epoch === undefined ? undefined : new Date(epoch).toISOString();

function toText({ overview, end }: AnalysedFile): string[] {
  const { tally, breakdown } = overview;
  const { recorder, browser, utcOffsetMinutes = 0 } = end.capture;
  const programs = [recorder, browser].flatMap((program) =>
    program === undefined ? [] : [program.name, program.version].filter(Boolean).join(' '),
  );
  const recordedAt =
    overview.recordedAt === undefined
      ? 'unknown'
      : `${formatInstant(overview.recordedAt, utcOffsetMinutes)} ${formatZone(utcOffsetMinutes)}`;
  const counts = (record: Readonly<Record<string, number>>): string =>
    Object.entries(record)
      .sort((a, b) => b[1] - a[1])
      .map(([name, count]) => `${name} ${count}`)
      .join(', ');
  return [
    overview.sentence,
    `Recorded ${recordedAt}${programs.length === 0 ? '' : ` by ${programs.join(', ')}`}.`,
    `${formatPlural(tally.exchanges, 'exchange')}, ${tally.failed} failed; ${formatBytes(tally.wireBytes)} on the wire, ${formatBytes(tally.bodyBytes)} decoded, ${formatShare(savedShare(tally))} of that from cache.`,
    ...overview.pages.map(
      (page, at) =>
        `Page ${at + 1}, ${page.id}: ${page.title || 'no title'}; DOM ready ${formatMs(page.domReadyMs)}, loaded ${formatMs(page.loadedMs)}, ${formatPlural(page.exchanges, 'exchange')}.`,
    ),
    ...(tally.exchanges === 0
      ? []
      : [
          `Status: ${counts(breakdown.byStatus)}`,
          `Kind: ${counts(breakdown.byKind)}`,
          `Source: ${counts(breakdown.bySource)}`,
          `Host: ${counts(Object.fromEntries(Object.entries(breakdown.byHost).map(([host, sums]) => [host || 'unknown', sums.exchanges])))}`,
        ]),
    ...overview.condition.map(({ sentence, advice }) => `Condition: ${sentence} ${advice}`),
  ];
}
