import { copyLink } from '../dossier/copy-link';
import type { Action } from '../state/actions';
import { copyCurl } from './copy-curl';

/** What can be done with the exchange under the cursor, whatever view it stands in. */
export function exchangeActions(captureId: string, exchange: number | undefined): readonly Action[] {
  const whenCurrent = (run: (index: number) => void) => (): void => {
    if (exchange !== undefined) run(exchange);
  };
  return [
    {
      id: 'curl',
      label: 'Copy the curl command',
      keys: ['c'],
      run: whenCurrent((index) => copyCurl(captureId, index, 'faithful')),
    },
    {
      id: 'curl-lean',
      label: 'Copy the curl command without what only browsers add',
      keys: ['Shift+C'],
      run: whenCurrent((index) => copyCurl(captureId, index, 'lean')),
    },
    {
      id: 'draft',
      label: 'Edit a draft of the current exchange',
      keys: ['d'],
      run: whenCurrent(async (index) => (await import('../drafts/open-draft')).openDraft(captureId, index)),
    },
    { id: 'copy-link', label: 'Copy a link to this view', keys: ['i'], run: copyLink },
  ];
}
