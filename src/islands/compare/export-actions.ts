import type { Action } from '../state/actions';
import { laterScript } from '../ui/later';
import type { ComparisonFormat } from './export-comparison';
import type { ShownPair } from './pairs';
import type { ShownSides } from './use-compared';

const loadExport = laterScript(() => import('./export-comparison'));

/** What can be taken away of a comparison; the files have just the pairs that are shown. */
export function exportActions(shown: ShownSides, pairs: readonly ShownPair[]): readonly Action[] {
  const save = (format: ComparisonFormat) => async (): Promise<void> =>
    (await loadExport()).saveComparison(format, shown, pairs);
  return [
    { id: 'export-csv', label: 'Export the pairs shown as CSV', keys: ['Shift+C'], run: save('csv') },
    { id: 'export-json', label: 'Export the comparison as JSON', keys: ['Shift+J'], run: save('json') },
    { id: 'export-svg', label: 'Export the comparison as a picture (SVG)', keys: ['Shift+V'], run: save('svg') },
  ];
}

/** The comparison as the command line prints it. */
export const copiedText = async (shown: ShownSides): Promise<string> => (await loadExport()).comparisonText(shown);
