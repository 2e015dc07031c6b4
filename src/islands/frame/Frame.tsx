import { useStore } from '@nanostores/react';
import { type ReactNode, Suspense, useEffect, useLayoutEffect, useMemo } from 'react';
import { compareAddress } from '../compare/load-name';
import { type Action, holdTyping, listenForKeys } from '../state/actions';
import { CAPTURE_VIEWS, type CaptureView, followHistory, type View } from '../state/address';
import { tellUnloaded } from '../state/unloaded';
import { $uploads } from '../state/uploads';
import { Boundary } from '../ui/Boundary';
import { LaterDialogs } from '../ui/LaterDialogs';
import { later } from '../ui/later';
import { useActions } from '../ui/use-actions';
import { useOpening } from '../ui/use-opening';
import { VIEWS } from '../views';
import { DropLayer } from './DropLayer';
import { enterView } from './enter-view';
import { ImportPicker } from './ImportPicker';
import { NoticeBar } from './NoticeBar';
import { Rail } from './Rail';

const ActionList = later(() => import('./ActionList'));
const KeySheet = later(() => import('./KeySheet'));
const UploadTray = later(() => import('./UploadTray'));

interface FrameProps {
  readonly view: View;
  readonly captureId?: string;
  /** The load that a comparison begins with, as addresses write it. */
  readonly load?: string;
  /** What stands in the top bar between the mark and the right edge. */
  readonly bar: ReactNode;
  readonly children: ReactNode;
}

/** What every page has around its view: rail, top bar, dropping, incoming files, keys. */
export function Frame({ view, captureId, load, bar, children }: FrameProps) {
  const hasUploads = Object.keys(useStore($uploads)).length > 0;
  const { opening, open, onClosed } = useOpening();
  const { opening: sheet, open: openSheet, onClosed: onSheetClosed } = useOpening();
  useActions(
    'everywhere',
    useMemo(() => everywhere(captureId, load, open, openSheet), [captureId, load, open, openSheet]),
  );
  useLayoutEffect(() => listenForKeys(), []);
  useEffect(() => followHistory(), []);
  useEffect(() => tellUnloaded(), []);
  return (
    <div className="flex h-dvh">
      <Rail current={view} captureId={captureId} load={load} />
      <div className="flex min-w-0 flex-1 flex-col">
        <header className="flex min-h-11.5 shrink-0 flex-wrap items-center gap-x-5 gap-y-1 border-line border-b bg-sheet px-4 py-1">
          {bar}
        </header>
        <main className="relative flex min-h-0 flex-1 flex-col">
          <Boundary>{children}</Boundary>
        </main>
        {hasUploads ? (
          <Boundary>
            <Suspense>
              <UploadTray />
            </Suspense>
          </Boundary>
        ) : null}
      </div>
      <DropLayer />
      {view === 'shelf' ? null : <ImportPicker />}
      <NoticeBar />
      <LaterDialogs>
        {sheet === undefined ? null : (
          <KeySheet
            key={sheet}
            onClose={() => onSheetClosed(sheet)}
            onSearch={() => {
              onSheetClosed(sheet);
              open();
            }}
          />
        )}
        {opening === undefined ? null : <ActionList key={opening} onClose={() => onClosed(opening)} />}
      </LaterDialogs>
    </div>
  );
}

function everywhere(
  captureId: string | undefined,
  load: string | undefined,
  showActions: () => void,
  showKeys: () => void,
): Action[] {
  const go = (id: string, label: string, key: string, href: string): Action => ({
    id,
    label,
    keys: [`g ${key}`],
    run: () => location.assign(href),
  });
  const goView = (view: CaptureView): Action => ({
    id: `go-${view}`,
    label: VIEWS[view].goes,
    keys: [`g ${VIEWS[view].key}`],
    run: () => enterView(view),
  });
  return [
    go('go-shelf', 'Go to the shelf', 's', '/'),
    go(
      'go-compare',
      load === undefined ? 'Go to Compare' : 'Compare this load with another',
      'c',
      compareAddress(load === undefined ? [] : [load], []),
    ),
    ...(captureId === undefined
      ? [go('go-reference', 'Go to the reference', 'r', '/reference')]
      : CAPTURE_VIEWS.map(goView)),
    {
      id: 'actions',
      label: 'Search and run actions',
      keys: ['Ctrl+k'],
      run: () => {
        holdTyping();
        showActions();
      },
    },
    { id: 'keys', label: 'Show all keys', keys: ['?'], run: showKeys },
  ];
}
