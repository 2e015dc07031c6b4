import type { CaptureOverview, ExchangeRow } from '#core/analysis';
import { tellLegs } from '#core/brief';
import type { ExchangeIndex, PageId } from '#core/model';
import { type Explanation, explainJson } from '#core/report';
import { formatCost, formatMs } from '#core/wording';
import { diagnoseFile, UsageError, withInput } from '../input';
import { printJson, printLines } from '../output';

/** The answer: what held a page's load up, where its time went, what was found. */
export async function explain(file: string, options: { json?: true; page?: string }): Promise<void> {
  const { explained, rows } = await withInput(file, (input) => {
    const diagnosis = diagnoseFile(input);
    return { explained: explainJson(diagnosis, choosePage(diagnosis.overview, options.page)), rows: diagnosis.rows };
  });
  if (explained === undefined) {
    throw new UsageError('No exchange of this page has a start: there is nothing to explain.');
  }
  if (options.json === true) printJson(explained);
  else printLines(toText(explained, rows));
}

/** The page asked for; else the first that has exchanges. */
function choosePage({ pages }: CaptureOverview, asked: string | undefined): PageId | undefined {
  if (asked === undefined) return (pages.find(({ exchanges }) => exchanges > 0) ?? pages[0])?.id;
  const found = pages.find(({ id }) => id === asked || id.startsWith(`${asked}#`));
  if (found !== undefined) return found.id;
  const ids = pages.map(({ id }) => id).join(', ');
  throw new UsageError(`There is no page "${asked}"; the capture has ${ids === '' ? 'none' : ids}.`);
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
    'Where the time went',
    ...spent,
    '',
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
