import type { Draft } from '#core/convert';

// What the parts of the work sheet are made of.

/** A part of a draft, and the way to change it. */
export interface EditingProps {
  readonly draft: Draft;
  readonly edit: (change: (draft: Draft) => Draft) => void;
}

export const FIELD = 'border border-line bg-paper px-1.5 font-mono text-[12px] text-ink';

interface PartProps {
  readonly title: string;
  readonly children: React.ReactNode;
  readonly tools?: React.ReactNode;
}

export function Part({ title, children, tools }: PartProps) {
  return (
    <section aria-label={title} className="mb-5">
      <h2 className="mb-1 flex flex-wrap items-baseline gap-3 font-bold">
        {title}
        <span className="flex flex-wrap gap-3 font-normal text-soft">{tools}</span>
      </h2>
      {children}
    </section>
  );
}

export function Tool({ children, onClick }: { readonly children: React.ReactNode; readonly onClick: () => void }) {
  return (
    <button type="button" onClick={onClick} className="underline hover:text-ink">
      {children}
    </button>
  );
}

export function Lift({ label, onLift }: { readonly label: string; readonly onLift: () => void }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      onClick={onLift}
      className="font-mono text-soft hover:text-ink"
    >
      {'{{ }}'}
    </button>
  );
}
