import { comparisonJson, comparisonLines, nameBoth, tellComparison, tellFacts, tellTimes } from '#core/compare';
import { toCsv } from '#core/report';
import { formatPlural } from '#core/wording';
import { readColours } from '../export/colours';
import { csvFile } from '../export/csv';
import { fileName, saveFile } from '../export/save-file';
import { tell } from '../state/notices';
import { drawComparison } from './comparison-svg';
import type { ShownPair } from './pairs';
import type { ShownSides } from './use-compared';

/** What a comparison can be saved as. */
export type ComparisonFormat = 'csv' | 'json' | 'svg';

/** Saves a comparison, with just the pairs that are shown. */
export function saveComparison(format: ComparisonFormat, shown: ShownSides, pairs: readonly ShownPair[]): void {
  const name = `${shown.a.drawn.name} against ${shown.b.drawn.name}`;
  saveFile(fileName(name, format), contentOf(format, shown, pairs));
  tell(`Saved as ${format.toUpperCase()}, ${formatPlural(pairs.length, 'pair')}.`);
}

function contentOf(format: ComparisonFormat, shown: ShownSides, pairs: readonly ShownPair[]): Blob {
  switch (format) {
    case 'csv':
      return csvFile(pairsCsv(pairs));
    case 'json':
      return new Blob([comparisonAsJson(shown, pairs)], { type: 'application/json' });
    case 'svg':
      return new Blob([drawComparison(shown, pairs, readColours())], { type: 'image/svg+xml' });
    default:
      return format satisfies never;
  }
}

/** The pairs as CSV: both exchanges, what became of them, their times, sizes and what is not the same. */
function pairsCsv(pairs: readonly ShownPair[]): string {
  const heads = [
    'a',
    'b',
    'change',
    'matched',
    'name',
    'host',
    'kind',
    'urlA',
    'urlB',
    'startMsA',
    'startMsB',
    'timeMsA',
    'timeMsB',
    'waitMsA',
    'waitMsB',
    'receiveMsA',
    'receiveMsB',
    'wireBytesA',
    'wireBytesB',
    'statusA',
    'statusB',
    'sourceA',
    'sourceB',
    'didMs',
    'differs',
  ];
  const rows = pairs.map(({ pair, a, b, did }) => {
    const row = a ?? b;
    return [
      a?.index,
      b?.index,
      pair.changes.join(' '),
      pair.by,
      nameBoth(a, b),
      row?.host,
      row?.kind,
      a?.url,
      b?.url,
      a?.startMs,
      b?.startMs,
      a?.timeMs,
      b?.timeMs,
      a?.phases.waitMs,
      b?.phases.waitMs,
      a?.phases.receiveMs,
      b?.phases.receiveMs,
      a?.wireBytes,
      b?.wireBytes,
      a?.status,
      b?.status,
      a?.source,
      b?.source,
      pair.didMs ?? did?.ms,
      [tellTimes(a, b), tellFacts(pair, a, b)].filter((text) => text !== '').join('; '),
    ];
  });
  return toCsv(heads, rows);
}

/** The comparison as the command line prints it. */
export const comparisonText = (shown: ShownSides): string => `${comparisonLines(printed(shown)).join('\n')}\n`;

function printed({ a, b, compared, isSame }: ShownSides) {
  const asLoad = ({ heads, drawn, page, rows }: ShownSides['a']) =>
    heads.map((head) => ({
      name: head.name,
      page: head === drawn ? page : undefined,
      // Of the loads that are not drawn no more than their times is known here.
      rows: head === drawn ? rows : [],
      traits: [],
      findings: undefined,
      foretold: undefined,
    }));
  return { a: asLoad(a), b: asLoad(b), compared, isSame };
}

/** The same as JSON, with the pairs that are shown. */
function comparisonAsJson(shown: ShownSides, pairs: readonly ShownPair[]): string {
  const json = comparisonJson(printed(shown));
  const keys = new Set(pairs.map(({ pair }) => `${pair.a}-${pair.b}`));
  const shownPairs = json.pairs.filter((pair) => keys.has(`${pair.a}-${pair.b}`));
  return JSON.stringify({ ...json, sentence: tellComparison(shown.compared).join(' '), pairs: shownPairs }, null, 2);
}
