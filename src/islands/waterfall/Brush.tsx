import { useRef, useState } from 'react';
import { type Scale, toMs, toPx } from '#core/chart';
import { formatMs } from '#core/wording';
import type { TimeWindow } from '../state/address';
import { fitWindow, pan, zoomAbout } from './window';

interface BrushProps {
  readonly whole: Scale;
  readonly window: TimeWindow | undefined;
  readonly heightPx: number;
  readonly onWindow: (window: TimeWindow | undefined) => void;
}

/** What is being dragged: a new stretch, one edge of the old one, or all of it. */
type Drag =
  | { readonly type: 'new'; readonly fromMs: number }
  | { readonly type: 'edge'; readonly fixedMs: number }
  | { readonly type: 'move'; readonly grabMs: number; readonly window: TimeWindow };

/** Shorter drags are clicks. */
const LEAST_DRAG_PX = 3;
const WHEEL_STEP = 0.0016;

/**
 * The brush on the profile: drag to zoom, drag an edge or the middle to change it, wheel to zoom, double-click for all.
 * Long because the part that is drawn by pointer, by keys and by its two edges is one and the same.
 */
export function Brush({ whole, window, heightPx, onWindow }: BrushProps) {
  const surface = useRef<HTMLDivElement>(null);
  const drag = useRef<Drag | undefined>(undefined);
  const [draft, setDraft] = useState<TimeWindow | undefined>();
  const msAt = (event: { readonly clientX: number }): number =>
    toMs(whole, event.clientX - (surface.current?.getBoundingClientRect().left ?? 0));
  const begin = (next: Drag) => (event: React.PointerEvent) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    surface.current?.setPointerCapture(event.pointerId);
    drag.current = next;
  };
  const draggedTo = (atMs: number): TimeWindow | undefined => {
    const from = drag.current;
    if (from === undefined) return undefined;
    if (from.type === 'move')
      return pan(from.window, (atMs - from.grabMs) / (from.window.toMs - from.window.fromMs), whole);
    const fixed = from.type === 'new' ? from.fromMs : from.fixedMs;
    return { fromMs: Math.min(fixed, atMs), toMs: Math.max(fixed, atMs) };
  };
  const onMove = (event: React.PointerEvent): void => {
    const next = draggedTo(msAt(event));
    if (next === undefined) return;
    if (drag.current?.type === 'move') onWindow(next);
    else setDraft(next);
  };
  const onUp = (event: React.PointerEvent): void => {
    const next = draggedTo(msAt(event));
    const isMove = drag.current?.type === 'move';
    drag.current = undefined;
    setDraft(undefined);
    if (next === undefined || isMove) return;
    if (toPx(whole, next.toMs) - toPx(whole, next.fromMs) >= LEAST_DRAG_PX) onWindow(fitWindow(next, whole));
  };
  const onWheel = (event: React.WheelEvent): void => {
    const shown = window ?? whole;
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      onWindow(pan(shown, (event.deltaX + (event.shiftKey ? event.deltaY : 0)) / 1000, whole));
    } else onWindow(zoomAbout(shown, msAt(event), Math.exp(-event.deltaY * WHEEL_STEP), whole));
  };
  const shown = draft ?? window;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: every part of it has a key as well: z, 0, + and -, the arrows.
    <div
      ref={surface}
      data-brush
      title="Drag to zoom, double-click for the whole load"
      className="absolute inset-x-0 top-0 cursor-crosshair touch-none"
      style={{ height: heightPx }}
      onPointerDown={(event) => begin({ type: 'new', fromMs: msAt(event) })(event)}
      onPointerMove={onMove}
      onPointerUp={onUp}
      onDoubleClick={() => onWindow(undefined)}
      onWheel={onWheel}
    >
      {shown === undefined ? null : (
        <>
          <Shade left={0} width={toPx(whole, shown.fromMs)} />
          <Shade left={toPx(whole, shown.toMs)} width={whole.widthPx - toPx(whole, shown.toMs)} />
          <div
            data-brush-window
            className="absolute inset-y-0 cursor-grab border-ink border-x-2"
            style={{
              left: toPx(whole, shown.fromMs),
              width: Math.max(2, toPx(whole, shown.toMs) - toPx(whole, shown.fromMs)),
            }}
            onPointerDown={(event) =>
              window === undefined ? undefined : begin({ type: 'move', grabMs: msAt(event), window })(event)
            }
          >
            <Edge side="left" onGrab={begin({ type: 'edge', fixedMs: shown.toMs })} />
            <Edge side="right" onGrab={begin({ type: 'edge', fixedMs: shown.fromMs })} />
            <span className="pointer-events-none absolute bottom-0 left-1 whitespace-nowrap bg-sheet/80 px-1 font-semibold text-[11px]">
              {formatMs(shown.toMs - shown.fromMs)}
            </span>
          </div>
        </>
      )}
    </div>
  );
}

const Shade = ({ left, width }: { readonly left: number; readonly width: number }) => (
  <div className="pointer-events-none absolute inset-y-0 bg-paper/75" style={{ left, width: Math.max(0, width) }} />
);

interface EdgeProps {
  readonly side: 'left' | 'right';
  readonly onGrab: (event: React.PointerEvent) => void;
}

function Edge({ side, onGrab }: EdgeProps) {
  return (
    <div
      data-brush-edge={side}
      onPointerDown={onGrab}
      className={`absolute inset-y-0 w-2.5 cursor-ew-resize ${side === 'left' ? '-left-1.5' : '-right-1.5'}`}
    />
  );
}
