import type { ReactNode } from 'react';
import type { ProblemAnswer } from '#core/wire';

interface ProblemProps {
  readonly problem: Pick<ProblemAnswer, 'sentence' | 'advice'>;
  readonly children?: ReactNode;
  /** Shown, and not spoken out: somebody is typing still. */
  readonly isQuiet?: boolean;
}

interface NothingProps extends Pick<ProblemAnswer, 'sentence' | 'advice'> {
  readonly children?: ReactNode;
}

/** What is wrong and what to do about it, in the middle of where something should have been. */
export function Problem({ problem, children, isQuiet = false }: ProblemProps) {
  return (
    <div role={isQuiet ? undefined : 'alert'} className={`${CARD} border-failed`}>
      <Said {...problem}>{children}</Said>
    </div>
  );
}

const CARD = 'mx-auto my-16 max-w-xl border-l-2 bg-sheet p-5';

/** There is nothing where something may be, and nothing is wrong: what can be done to have some. */
export function Nothing(props: NothingProps) {
  return (
    <div className={`${CARD} border-ink`}>
      <Said {...props} />
    </div>
  );
}

function Said({ sentence, advice, children }: NothingProps) {
  return (
    <>
      <p className="font-semibold text-base">{sentence}</p>
      <p className="mt-1 text-soft">{advice}</p>
      {children === undefined ? null : <div className="mt-4 flex gap-2">{children}</div>}
    </>
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
