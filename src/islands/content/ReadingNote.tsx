import type { ReactNode } from 'react';

/** A line about what is shown, or why nothing is. */
export function ReadingNote({
  children,
  isProblem = false,
}: {
  readonly children: ReactNode;
  readonly isProblem?: boolean;
}) {
  return (
    <p role={isProblem ? 'alert' : 'status'} className={`my-1 text-[13px] ${isProblem ? 'text-failed' : 'text-soft'}`}>
      {children}
    </p>
  );
}
