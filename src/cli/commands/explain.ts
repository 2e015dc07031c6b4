import type { CaptureOverview } from '#core/analysis';
import type { PageId } from '#core/model';
import { explainJson } from '#core/report';
import { formatMs } from '#core/wording';
import { diagnoseFile, UsageError, withInput } from '../input';
import { print, printJson } from '../output';

/** The answer: what held a page's load up, where its time went, what was found. */
export function explain(file: string, options: { json?: true; page?: string }): void {
  const explained = withInput(file, (path) => {
    const diagnosis = diagnoseFile(path);
    return explainJson(diagnosis, choosePage(diagnosis.overview, options.page));
  });
  if (explained === undefined) {
    throw new UsageError('No exchange of this page has a start: there is nothing to explain.');
  }
  if (options.json === true) printJson(explained);
  else print(toText(explained));
}

/** The page asked for; else the first that has exchanges. */
function choosePage({ pages }: CaptureOverview, asked: string | undefined): PageId | undefined {
  if (asked === undefined) return (pages.find(({ exchanges }) => exchanges > 0) ?? pages[0])?.id;
  const found = pages.find(({ id }) => id === asked || id.startsWith(`${asked}#`));
  if (found !== undefined) return found.id;
  const ids = pages.map(({ id }) => id).join(', ');
  throw new UsageError(`There is no page "${asked}"; the capture has ${ids === '' ? 'none' : ids}.`);
}

interface Explanation {
  readonly sentence: string;
  readonly legs: readonly { type: string; index?: number; startMs: number; endMs: number }[];
  readonly ledger: Readonly<Record<string, number>>;
  readonly findings: readonly { claim: string; evidence: readonly number[]; remedy: string; severity: string }[];
}

function toText(explained: Readonly<Record<string, unknown>>): string {
  const { sentence, legs, ledger, findings } = explained as unknown as Explanation;
  const route = legs.map(({ type, index, startMs, endMs }) => {
    const what = type === 'browser' ? 'browser at work' : `#${index}`;
    return `  ${formatMs(startMs).padStart(9)}  ${formatMs(endMs - startMs).padStart(9)}  ${what}`;
  });
  const spent = Object.entries(ledger)
    .filter(([, ms]) => ms > 0)
    .map(([name, ms]) => `  ${name.replace(/Ms$/, '').padEnd(10)}${formatMs(ms).padStart(9)}`);
  const found = findings.map(({ claim, evidence, remedy, severity }) => {
    const about = evidence
      .slice(0, 8)
      .map((index) => `#${index}`)
      .join(' ');
    return `  ${severity}: ${claim}. ${about}\n    ${remedy}`;
  });
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
    ...found,
    '',
  ].join('\n');
}
