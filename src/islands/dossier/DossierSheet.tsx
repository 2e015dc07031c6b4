import { type ReactNode, useEffect, useRef } from 'react';
import { useOneTabStop, useReturnOfFocus } from '../state/focus';
import { SECTIONS } from './sections';

interface DossierSheetProps {
  readonly label: string;
  readonly onSection: (number: number) => void;
  readonly children: ReactNode;
}

/** The sheet that slides over the chart's right part. It takes the focus, so that its text can be scrolled by key. */
export function DossierSheet({ label, onSection, children }: DossierSheetProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const index = useOneTabStop<HTMLOListElement>('li');
  useReturnOfFocus();
  // biome-ignore lint/correctness/useExhaustiveDependencies: another exchange starts at its top again.
  useEffect(() => {
    scroller.current?.focus({ preventScroll: true });
    scroller.current?.scrollTo({ top: 0 });
  }, [label]);
  return (
    <aside
      aria-label={label}
      className="absolute inset-y-0 right-0 z-20 flex w-[542px] max-w-full animate-slide-in border-route border-l-3 bg-sheet shadow-dossier"
    >
      <ol ref={index} aria-label="Sections of the dossier" className="w-22 shrink-0 border-line border-r pt-4">
        {SECTIONS.map((title, at) => (
          <li key={title}>
            <button
              type="button"
              aria-label={`Section ${at + 1}, ${title}`}
              onClick={() => onSection(at + 1)}
              className="flex min-h-6 w-full items-baseline gap-1.5 py-1 pl-2 text-left text-[12px] text-soft hover:text-route"
            >
              <b className="font-mono font-semibold">{at + 1}</b> {title}
            </button>
          </li>
        ))}
      </ol>
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <div ref={scroller} tabIndex={0} className="min-w-0 flex-1 overflow-y-auto p-4 outline-none">
        {children}
      </div>
    </aside>
  );
}
