import type { ReactNode } from 'react';

/** One part of the column beside what leaves. */
export function Part({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <section aria-label={title} className="border-line border-b py-3">
      <h2 className="mb-1.5 font-bold text-base">{title}</h2>
      {children}
    </section>
  );
}
