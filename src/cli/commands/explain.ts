import { type CaptureOverview, type ExchangeRow, howTimed, type RouteTo, readRouteTo } from '#core/analysis';
import { tellLegs } from '#core/brief';
import type { ExchangeIndex, PageId } from '#core/model';
import { type Explanation, explainJson } from '#core/report';
import { formatCost, formatMs } from '#core/wording';
import { diagnoseFile } from '#server/capture-file';
import { UsageError, withInput } from '../input';
import { type MaskOptions, maskFor } from '../masked';
import { printJson, printLines } from '../output';
import { findPages } from '../pages';

/** The answer: what held a page's load up, where its time went, what was found. */
export async function explain(
  file: string,
  options: MaskOptions & { json?: true; page?: string; to?: string },
): Promise<void> {
  const { explained, rows, to, line, end } = await withInput(file, (recorded) => {
    const { input, line, end } = maskFor(recorded, options);
    const diagnosis = diagnoseFile(input);
    const { page, to } = chooseGoal(diagnosis, options);
    return { explained: explainJson(diagnosis, page, to), rows: diagnosis.rows, to, line, end };
  });
  if (explained === undefined) {
    throw new UsageError(
      to.type === 'domReady'
        ? 'DOM ready of this page is not known: its recorder wrote none.'
        : 'No exchange of this page has a start: there is nothing to explain.',
    );
  }
  if (options.json === true) printJson(explained);
  else printLines(toText(explained, rows).map(line));
  end();
}

/** What the route is to lead to, and the page that it belongs to. */
function chooseGoal(
  { overview, rows }: { readonly overview: CaptureOverview; readonly rows: readonly ExchangeRow[] },
  options: { readonly page?: string; readonly to?: string },
): { readonly page: PageId | undefined; readonly to: RouteTo } {
  const chosen = choosePage(overview, options.page);
  const { to: text = '' } = options;
  const milestones = overview.pages.find(({ id }) => id === chosen)?.milestones ?? [];
  const to = readRouteTo(text, milestones);
  if (to === undefined) {
    const names = ['loaded', 'dom-ready', ...milestones.flatMap(({ id, label }) => (id === 'other' ? label : []))];
    throw new UsageError(`There is no "${text}" to go to; there are ${names.join(', ')}, and exchanges, as #12.`);
  }
  if (to.type !== 'exchange') return { page: chosen, to };
  const row = rows.find(({ index }) => index === to.index);
  if (row === undefined) throw new UsageError(`There is no exchange #${to.index}; the capture has ${rows.length}.`);
  if (row.startMs === undefined) throw new UsageError(`#${to.index} has no start: no route leads to it.`);
  return { page: row.pageId, to };
}

/** The page asked for; else the first that has exchanges. */
function choosePage(overview: CaptureOverview, asked: string | undefined): PageId | undefined {
  if (asked !== undefined) return findPages(overview, asked)[0].id;
  const { pages } = overview;
  return (pages.find(({ exchanges }) => exchanges > 0) ?? pages[0])?.id;
}

/** More numbers than these are not printed for a finding. */
const NUMBERS_SHOWN = 8;

function toText({ sentence, legs, ledger, findings }: Explanation, rows: readonly ExchangeRow[]): string[] {
  const byIndex = new Map<ExchangeIndex, ExchangeRow>(rows.map((row) => [row.index, row]));
  const rowOf = (index: ExchangeIndex): ExchangeRow | undefined => byIndex.get(index);
  const route = tellLegs(legs, rowOf).map(({ leg: { startMs, endMs }, name, words }) => {
    const what = name === '' ? words : `${name} ${words}`;
    return `  ${formatMs(startMs).padStart(9)}  ${formatMs(endMs - startMs).padStart(9)}  ${what}`;
  });
  const spent = Object.entries(ledger)
    .filter(([, ms]) => ms > 0)
    .map(([name, ms]) => `  ${name.replace(/Ms$/, '').padEnd(10)}${formatMs(ms).padStart(9)}`);
  return [
    sentence,
    '',
    'Route',
    ...route,
    '',
    ...(howTimed(rows) === 'most' ? ['Where the time went', ...spent, ''] : []),
    `Findings: ${findings.length}`,
    ...findings.flatMap(findingText),
    '',
  ];
}

function findingText({
  claim,
  detail,
  evidence,
  remedy,
  severity,
  cost,
  confidence,
}: Explanation['findings'][number]): string[] {
  const numbers = evidence.slice(0, NUMBERS_SHOWN).map((index) => `#${index}`);
  const more = evidence.length - numbers.length;
  const about = [...numbers, ...(more > 0 ? [`and ${more} more`] : [])].join(' ');
  const marks = [severity, formatCost(cost), confidence === 'weak' ? 'not certain' : ''].filter(
    (words) => words !== '',
  );
  return [
    `  ${claim}`,
    `    ${marks.join(', ')}: ${about}`,
    ...(detail === '' ? [] : [`    ${detail}`]),
    `    ${remedy}`,
  ];
}
