import { type ReactNode, Suspense } from 'react';
import { Boundary } from './Boundary';

interface LaterDialogsProps {
  /** Which of them is open: another is tried again. */
  readonly of?: unknown;
  readonly children: ReactNode;
}

/** Dialogs whose scripts come when they are opened: one that cannot be had is told of at the foot of the page, which stays. */
export function LaterDialogs({ of, children }: LaterDialogsProps) {
  return (
    <div className="fixed inset-x-0 bottom-0 z-50">
      <Boundary of={of}>
        <Suspense>{children}</Suspense>
      </Boundary>
    </div>
  );
}
