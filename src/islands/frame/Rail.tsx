import { useStore } from '@nanostores/react';
import type { ReactNode } from 'react';
import { compareAddress } from '../compare/load-name';
import { $place, CAPTURE_VIEWS, type CaptureView, isOfCapture, type View } from '../state/address';
import { Mark } from '../ui/Mark';
import { VIEWS } from '../views';
import { enterView } from './enter-view';
import { LookSwitch } from './LookSwitch';

interface RailProps {
  readonly current: View;
  readonly captureId: string | undefined;
  /** The load that a comparison begins with. */
  readonly load: string | undefined;
}

/** The left rail: the shelf, and the views of the capture that is open. */
export function Rail({ current, captureId, load }: RailProps) {
  const link = (view: CaptureView): ReactNode => (
    <RailLink key={view} view={view} label={VIEWS[view].label} captureId={captureId} isCurrent={current === view}>
      {VIEWS[view].drawing}
    </RailLink>
  );
  return (
    <nav aria-label="Views" className="flex w-19 shrink-0 flex-col overflow-y-auto border-line border-r bg-sheet">
      <a
        href="/"
        aria-label="Trazado, home"
        className="flex h-11.5 shrink-0 items-center justify-center border-line border-b"
      >
        <Mark />
      </a>
      <RailLink view="shelf" label="Shelf" captureId={undefined} isCurrent={current === 'shelf'}>
        <path d="M4 5h16M4 11h16M4 17h16M8 5v6M14 11v6" />
      </RailLink>
      <RailLink view="compare" label="Compare" captureId={undefined} isCurrent={current === 'compare'} of={load}>
        <path d="M3 4h11v5h-11zM8 13h13v5h-13z" />
      </RailLink>
      {captureId === undefined ? null : CAPTURE_VIEWS.filter((view) => view !== 'reference').map(link)}
      <div className="mt-auto">
        {link('reference')}
        <LookSwitch />
      </div>
    </nav>
  );
}

interface RailLinkProps {
  readonly view: View;
  readonly label: string;
  readonly captureId: string | undefined;
  readonly isCurrent: boolean;
  /** The load that a comparison begins with. */
  readonly of?: string | undefined;
  readonly children: ReactNode;
}

function RailLink({ view, label, captureId, isCurrent, of, children }: RailLinkProps) {
  const place = useStore($place);
  const look = isCurrent ? 'border-route font-bold text-ink' : 'border-transparent text-soft hover:text-ink';
  const go = (event: React.MouseEvent): void => {
    // Another view of the same capture needs no new page, and keeps filter, page and zoom.
    if (
      captureId === undefined ||
      !isOfCapture(view) ||
      !isOfCapture(place.view) ||
      event.ctrlKey ||
      event.metaKey ||
      event.shiftKey
    )
      return;
    event.preventDefault();
    enterView(view);
  };
  return (
    <a
      href={captureId === undefined ? standing(view, of) : `/c/${captureId}/${view}`}
      onClick={go}
      aria-current={isCurrent ? 'page' : undefined}
      className={`flex flex-col items-center gap-1 border-l-4 py-2.5 pr-1 text-[12px] ${look}`}
    >
      <svg width="24" height="22" viewBox="0 0 24 22" aria-hidden="true" className="fill-none stroke-2 stroke-current">
        {children}
      </svg>
      {label}
    </a>
  );
}

/** The address of a page that is no capture's; of a comparison with the load that it begins with. */
function standing(view: View, of: string | undefined): string {
  if (view === 'shelf') return '/';
  return view === 'compare' && of !== undefined ? compareAddress([of], []) : `/${view}`;
}
