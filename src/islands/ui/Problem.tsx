import type { ReactNode } from 'react';
import type { ProblemAnswer } from '#core/wire';

interface ProblemProps {
  readonly problem: Pick<ProblemAnswer, 'sentence' | 'advice'>;
  readonly children?: ReactNode;
  /** Shown, and not spoken out: somebody is typing still. */
  readonly isQuiet?: boolean;
}

/** What is wrong and what to do about it, in the middle of where something should have been. */
export function Problem({ problem, children, isQuiet = false }: ProblemProps) {
  return (
    <div role={isQuiet ? undefined : 'alert'} className="mx-auto my-16 max-w-xl border-failed border-l-2 bg-sheet p-5">
      <p className="font-semibold text-base">{problem.sentence}</p>
      <p className="mt-1 text-soft">{problem.advice}</p>
      {children === undefined ? null : <div className="mt-4 flex gap-2">{children}</div>}
    </div>
  );
}

/** Something is being fetched. Shown as words, as it rarely lasts. */
export function Loading({ what }: { readonly what: string }) {
  return (
    <p role="status" className="m-auto p-16 text-center text-soft">
      Loading {what}
    </p>
  );
}
