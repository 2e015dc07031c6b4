import { useMemo, useRef } from 'react';
import type { Action } from '../state/actions';
import { useActions } from '../ui/use-actions';
import { FilePicker } from './FilePicker';

/** Lets files be chosen by key where the page has no button for it. */
export function ImportPicker() {
  const picker = useRef<HTMLInputElement>(null);
  const actions = useMemo(
    (): readonly Action[] => [
      { id: 'pick', label: 'Import a capture file', keys: ['g i'], run: () => picker.current?.click() },
    ],
    [],
  );
  useActions('everywhere', actions);
  return <FilePicker picker={picker} />;
}
