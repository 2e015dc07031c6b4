import { type RefObject, useLayoutEffect, useRef } from 'react';
import { type Action, type Rank, registerActions } from '../state/actions';

/**
 * Registers what can be done by the component that calls it, for as long as it is there: before it is painted, so that no key is lost
 * that is pressed as soon as its control is seen.
 */
export function useActions(rank: Rank, actions: readonly Action[]): void {
  useLayoutEffect(() => registerActions(rank, actions), [rank, actions]);
}

/** What a control of the screen is called among the actions, and its keys. */
export interface ControlAction {
  readonly id: string;
  readonly label: string;
  readonly keys: readonly string[];
  readonly rank?: Rank;
}

/** A control that a key presses, or gives the focus to: the ref goes to its element. Without an action nothing is registered. */
export function useControl<E extends HTMLElement>(
  action: ControlAction | undefined,
  does: 'click' | 'focus',
): RefObject<E | null> {
  const element = useRef<E>(null);
  const { id, label, keys, rank = 'view' } = action ?? { id: undefined, label: '', keys: [] };
  const allKeys = keys.join('\n');
  useLayoutEffect(() => {
    if (id === undefined) return undefined;
    return registerActions(rank, [{ id, label, keys: allKeys.split('\n'), run: () => element.current?.[does]() }]);
  }, [id, label, allKeys, rank, does]);
  return element;
}
