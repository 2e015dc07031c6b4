import { copyLink } from '../dossier/copy-link';
import { noteOn, toggleMark } from '../marks/marks-store';
import type { Action } from '../state/actions';

// What actions do is loaded when one is first run.
const loadCopying = () => import('./copy-curl');

/** What is copied for most, besides curl for a POSIX shell; the dossier offers all targets. */
const SHELLS = [
  ['curl-cmd', 'Copy as curl for Windows cmd'],
  ['curl-ps', 'Copy as curl for PowerShell'],
  ['python-requests', 'Copy as Python code (requests)'],
  ['node-fetch', 'Copy as Node code (fetch)'],
] as const;

/** What can be done with the exchange under the cursor, whatever view it stands in. */
export function exchangeActions(captureId: string, exchange: number | undefined): readonly Action[] {
  const whenCurrent = (run: (index: number) => void) => (): void => {
    if (exchange !== undefined) run(exchange);
  };
  return [
    {
      id: 'curl',
      label: 'Copy the curl command, for a POSIX shell',
      keys: ['c'],
      run: whenCurrent(async (index) => (await loadCopying()).copyCurl(captureId, index, 'faithful')),
    },
    {
      id: 'curl-lean',
      label: 'Copy the curl command without what only browsers add',
      keys: ['Shift+C'],
      run: whenCurrent(async (index) => (await loadCopying()).copyCurl(captureId, index, 'lean')),
    },
    ...SHELLS.map(
      ([id, label]): Action => ({
        id: `copy-${id}`,
        label,
        keys: [],
        run: whenCurrent(async (index) => (await loadCopying()).copyAs(captureId, index, id, 'faithful')),
      }),
    ),
    {
      id: 'copy-last',
      label: 'Copy the request for the target used last',
      keys: ['y'],
      run: whenCurrent(async (index) => (await loadCopying()).copyForLast(captureId, index)),
    },
    {
      id: 'draft',
      label: 'Edit a draft of the current exchange',
      keys: ['d'],
      run: whenCurrent(async (index) => (await import('../drafts/open-draft')).openDraft(captureId, index)),
    },
    {
      id: 'compare',
      label: 'Compare with: mark this exchange, then press again on the other',
      keys: ['m'],
      run: whenCurrent(async (index) => (await import('./compare-mark')).compareMark(captureId, index)),
    },
    {
      id: 'mark',
      label: 'Mark the current exchange',
      keys: ['Shift+K'],
      run: whenCurrent((index) => toggleMark({ type: 'exchange', index }, `#${index}`)),
    },
    {
      id: 'note',
      label: 'Note something on the current exchange',
      keys: ['Shift+A'],
      run: whenCurrent((index) => noteOn({ type: 'exchange', index }, `#${index}`)),
    },
    { id: 'copy-link', label: 'Copy a link to this view', keys: ['i'], run: copyLink },
  ];
}
