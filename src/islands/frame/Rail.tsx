import type { ReactNode } from 'react';
import { Mark } from '../ui/Mark';
import { LookSwitch } from './LookSwitch';

/** The views that there are. A capture's own views need a capture. */
export type View = 'shelf' | 'waterfall';

interface RailProps {
  readonly current: View;
  readonly captureId: string | undefined;
}

/** The left rail: the shelf, and the views of the capture that is open. */
export function Rail({ current, captureId }: RailProps) {
  return (
    <nav aria-label="Views" className="flex w-19 shrink-0 flex-col border-line border-r bg-sheet">
      <a
        href="/"
        aria-label="Trazado, to the shelf"
        className="flex h-11.5 items-center justify-center border-line border-b"
      >
        <Mark />
      </a>
      <RailLink href="/" label="Shelf" isCurrent={current === 'shelf'}>
        <path d="M4 5h16M4 11h16M4 17h16M8 5v6M14 11v6" />
      </RailLink>
      {captureId === undefined ? null : (
        <RailLink href={`/c/${captureId}/waterfall`} label="Waterfall" isCurrent={current === 'waterfall'}>
          <path d="M3 6h7v5h6v5h6" />
        </RailLink>
      )}
      <div className="mt-auto">
        <LookSwitch />
      </div>
    </nav>
  );
}

interface RailLinkProps {
  readonly href: string;
  readonly label: string;
  readonly isCurrent: boolean;
  readonly children: ReactNode;
}

function RailLink({ href, label, isCurrent, children }: RailLinkProps) {
  const look = isCurrent ? 'border-route font-bold text-ink' : 'border-transparent text-soft hover:text-ink';
  return (
    <a
      href={href}
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
