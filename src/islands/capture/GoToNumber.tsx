import { useMemo } from 'react';
import { holdTyping } from '../state/actions';
import { LaterDialogs } from '../ui/LaterDialogs';
import { later } from '../ui/later';
import { useActions } from '../ui/use-actions';
import { useOpening } from '../ui/use-opening';
import type { GoToNumberProps } from './NumberDialog';

const NumberDialog = later(() => import('./NumberDialog'));

/** A small dialog that takes a number and goes to its exchange. */
export function GoToNumber(props: GoToNumberProps) {
  const { opening, open, onClosed } = useOpening();
  useActions(
    'capture',
    useMemo(
      () => [
        {
          id: 'number',
          label: 'Go to an exchange by its number',
          keys: ['#', 'Shift+N'],
          run: () => {
            holdTyping();
            open();
          },
        },
      ],
      [open],
    ),
  );
  return (
    <LaterDialogs of={opening}>
      {opening === undefined ? null : <NumberDialog key={opening} {...props} onClosed={() => onClosed(opening)} />}
    </LaterDialogs>
  );
}
