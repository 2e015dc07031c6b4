import { type ExchangeRow, nameExchange } from '../analysis';
import { firstByteMs, setupMs } from '../model';
import { escapeXml, formatBytes, formatMs, wordFailure } from '../wording';
import type { Checked } from './check';

/** Exchanges printed below a breach; JSON and JUnit have all. */
const SHOWN_EXCHANGES = 10;

/** What was checked as lines: the verdict, and below a breach the exchanges that it rests on. */
export function checkedLines(checked: readonly Checked[], rows: readonly ExchangeRow[]): string[] {
  const byIndex = new Map(rows.map((row) => [row.index, row]));
  return checked.flatMap(({ isOver, says, name, exchanges }) => {
    const shown = exchanges.slice(0, SHOWN_EXCHANGES).map((index) => {
      const row = byIndex.get(index);
      return `      ${row === undefined ? `#${index}` : lineOf(row, name)}`;
    });
    const more = exchanges.length - shown.length;
    return [`${isOver ? 'over' : 'ok  '}  ${says}`, ...shown, ...(more > 0 ? [`      and ${more} more`] : [])];
  });
}

/** What an exchange itself brings to a budget. */
const PARTS: Readonly<Record<string, (row: ExchangeRow) => string>> = {
  loaded: ({ timeMs }) => formatMs(timeMs),
  ready: ({ timeMs }) => formatMs(timeMs),
  route: ({ timeMs }) => formatMs(timeMs),
  ttfb: ({ phases }) => formatMs(firstByteMs(phases)),
  wait: ({ phases }) => formatMs(phases.waitMs),
  setup: ({ phases }) => formatMs(setupMs(phases)),
  wire: ({ wireBytes }) => formatBytes(wireBytes),
  body: ({ bodyBytes }) => formatBytes(bodyBytes),
  failed: ({ failure }) => (failure === undefined ? '' : wordFailure(failure)),
};

/** An exchange with its own part in a budget. */
function lineOf(row: ExchangeRow, budget: string): string {
  const [name = ''] = budget.split('[');
  const write = Object.hasOwn(PARTS, name) ? PARTS[name] : undefined;
  const own = write === undefined ? '' : `: ${write(row)}`;
  return `#${row.index} ${row.method} ${nameExchange(row)}${own}`;
}

/** Control characters say nothing to who reads a failure: they are left out. */
const inXml = (text: string): string =>
  // biome-ignore lint/suspicious/noControlCharactersInRegex: XML allows none of them.
  escapeXml(text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/g, ''));

/** The checks as JUnit XML, which continuous integration reads; numbers, limit and exchanges stand in the failure's text. */
export function checkedToJunit(checked: readonly Checked[], file: string): string {
  const failures = checked.filter(({ isOver }) => isOver).length;
  const cases = checked.map((one) => {
    const { name, isOver, says, page } = one;
    const head = `  <testcase classname="trazado" name="${inXml(page === undefined ? name : `${name} (${page})`)}"`;
    const properties = propertiesOf(one);
    if (!isOver) return properties === '' ? `${head}/>` : `${head}>${properties}</testcase>`;
    return `${head}>${properties}<failure type="${one.unit === undefined ? 'finding' : 'budget'}" message="${inXml(says)}">${inXml(numbersOf(one))}</failure></testcase>`;
  });
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuite name="${inXml(file)}" tests="${checked.length}" failures="${failures}">`,
    ...cases,
    '</testsuite>',
    '',
  ].join('\n');
}

/** The numbers of a check as JUnit's properties, which are read whether it failed or not. */
function propertiesOf({ unit, value, most, baseline }: Checked): string {
  if (unit === undefined) return '';
  const pairs = Object.entries({ value, limit: most, baseline, unit }).filter(([, one]) => one !== undefined);
  return `<properties>${pairs.map(([name, one]) => `<property name="${name}" value="${one}"/>`).join('')}</properties>`;
}

function numbersOf({ unit, value, most, exchanges }: Checked): string {
  const named = exchanges.length === 0 ? [] : [`exchanges: ${exchanges.map((index) => `#${index}`).join(', ')}`];
  return [
    ...(unit === undefined ? [] : [`value: ${value ?? 'unknown'}`, `limit: ${most ?? 'unknown'}`, `unit: ${unit}`]),
    ...named,
  ].join('\n');
}
