import type { ReactNode } from 'react';
import { $place, addressOf, goTo } from '../state/address';

interface TermProps {
  /** As it is looked up in the reference; where it differs from what is shown. */
  readonly name?: string | undefined;
  readonly children: ReactNode;
}

/** A phase, a milestone or a word of ours, which leads to what it means. */
export function Term({ name, children }: TermProps) {
  const term = name ?? String(children);
  const to = { view: 'reference', term, isOpen: false } as const;
  return (
    <a
      href={addressOf({ ...$place.get(), ...to })}
      title={`What “${term}” means`}
      className="decoration-dotted underline-offset-3 hover:underline"
      onClick={(event) => {
        if (event.ctrlKey || event.metaKey || event.shiftKey) return;
        event.preventDefault();
        goTo(to);
      }}
    >
      {children}
    </a>
  );
}
