import { useCallback, useRef, useState } from 'react';

/**
 * Whether something that closes by itself is open, each opening told from the others: a dialog says that it has closed a
 * moment later, when it may have been asked for again.
 */
export function useOpening(): {
  /** The opening that is open, for its key. */
  readonly opening: number | undefined;
  readonly open: () => void;
  readonly onClosed: (opening: number) => void;
} {
  const count = useRef(0);
  const [opening, setOpening] = useState<number>();
  return {
    opening,
    open: useCallback(() => setOpening(++count.current), []),
    onClosed: (closed) => setOpening((now) => (now === closed ? undefined : now)),
  };
}
