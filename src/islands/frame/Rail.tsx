import { useStore } from '@nanostores/react';
import type { ReactNode } from 'react';
import { $place, CAPTURE_VIEWS, goTo, type View } from '../state/address';
import { Mark } from '../ui/Mark';
import { LookSwitch } from './LookSwitch';

interface RailProps {
  readonly current: View;
  readonly captureId: string | undefined;
}

/** The left rail: the shelf, and the views of the capture that is open. */
export function Rail({ current, captureId }: RailProps) {
  return (
    <nav aria-label="Views" className="flex w-19 shrink-0 flex-col overflow-y-auto border-line border-r bg-sheet">
      <a
        href="/"
        aria-label="Trazado, to the shelf"
        className="flex h-11.5 shrink-0 items-center justify-center border-line border-b"
      >
        <Mark />
      </a>
      <RailLink view="shelf" captureId={undefined} isCurrent={current === 'shelf'}>
        <path d="M4 5h16M4 11h16M4 17h16M8 5v6M14 11v6" />
      </RailLink>
      {captureId === undefined
        ? null
        : CAPTURE_VIEWS.map((view) => (
            <RailLink key={view} view={view} captureId={captureId} isCurrent={current === view}>
              {DRAWING[view]}
            </RailLink>
          ))}
      <div className="mt-auto">
        <RailLink view="reference" captureId={captureId} isCurrent={current === 'reference'}>
          <path d="M5 3h11a3 3 0 0 1 3 3v13h-11a3 3 0 0 1 -3 -3zM9 8h6M9 12h6" />
        </RailLink>
        <LookSwitch />
      </div>
    </nav>
  );
}

const DRAWING: Record<(typeof CAPTURE_VIEWS)[number], ReactNode> = {
  brief: <path d="M3 5h18M3 10h12M3 15h18M3 20h8" />,
  waterfall: <path d="M3 6h7v5h6v5h6" />,
  find: <path d="M3 4h18M3 10h7M3 16h5M14 13a4 4 0 1 0 0.1 0M17 18l4 3" />,
  drafts: <path d="M4 3h11l4 4v14h-15zM15 3v4h4M8 17l6 -6l2 2l-6 6h-2z" />,
  endpoints: <path d="M3 4h5v5h-5zM3 14h5v5h-5zM16 9h5v5h-5zM8 6h4v10h-4M12 11h4" />,
};

const LABEL: Record<View, string> = {
  shelf: 'Shelf',
  brief: 'Brief',
  waterfall: 'Waterfall',
  find: 'Find',
  endpoints: 'Endpoints',
  drafts: 'Drafts',
  reference: 'Reference',
};

interface RailLinkProps {
  readonly view: View;
  readonly captureId: string | undefined;
  readonly isCurrent: boolean;
  readonly children: ReactNode;
}

function RailLink({ view, captureId, isCurrent, children }: RailLinkProps) {
  const place = useStore($place);
  const look = isCurrent ? 'border-route font-bold text-ink' : 'border-transparent text-soft hover:text-ink';
  const go = (event: React.MouseEvent): void => {
    // Another view of the same capture needs no new page, and keeps sift, page and zoom.
    if (captureId === undefined || place.view === 'shelf' || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    goTo({ view, isOpen: false });
  };
  return (
    <a
      href={captureId === undefined ? (view === 'shelf' ? '/' : `/${view}`) : `/c/${captureId}/${view}`}
      onClick={go}
      aria-current={isCurrent ? 'page' : undefined}
      className={`flex flex-col items-center gap-1 border-l-4 py-2.5 pr-1 text-[12px] ${look}`}
    >
      <svg width="24" height="22" viewBox="0 0 24 22" aria-hidden="true" className="fill-none stroke-2 stroke-current">
        {children}
      </svg>
      {LABEL[view]}
    </a>
  );
}
