import type { ComponentType, ReactNode } from 'react';
import type { CaptureView } from './state/address';
import type { ViewProps } from './view-props';

interface ViewEntry {
  readonly label: string;
  /** The letter behind "g" that goes to it, and how that is called among the actions. */
  readonly key: string;
  readonly goes: string;
  /** Its drawing in the rail. */
  readonly drawing: ReactNode;
  /** Its script, which the other views do not need. */
  readonly load: () => Promise<{ readonly default: ComponentType<ViewProps> }>;
  /** Stays as it is behind the others once it was shown: drawing it anew takes long. */
  readonly stays?: true;
  /** Shows something of a capture without exchanges, too. */
  readonly takesEmpty?: true;
  /** Has a field that what is typed on the way to it is meant for. */
  readonly takesTyping?: true;
}

/** The views of a capture, each its folder and a row here: rail, keys, frame and address follow. */
export const VIEWS = {
  brief: {
    label: 'Brief',
    key: 'b',
    goes: 'Go to the brief',
    drawing: <path d="M3 5h18M3 10h12M3 15h18M3 20h8" />,
    load: () => import('./brief/BriefView'),
    stays: true,
  },
  waterfall: {
    label: 'Waterfall',
    key: 'w',
    goes: 'Go to the waterfall',
    drawing: <path d="M3 6h7v5h6v5h6" />,
    load: () => import('./waterfall/WaterfallView'),
  },
  find: {
    label: 'Find',
    key: 'f',
    goes: 'Go to find',
    drawing: <path d="M3 4h18M3 10h7M3 16h5M14 13a4 4 0 1 0 0.1 0M17 18l4 3" />,
    load: () => import('./find/FindView'),
    takesTyping: true,
  },
  endpoints: {
    label: 'Endpoints',
    key: 'e',
    goes: 'Go to the endpoints',
    drawing: <path d="M3 4h5v5h-5zM3 14h5v5h-5zM16 9h5v5h-5zM8 6h4v10h-4M12 11h4" />,
    load: () => import('./endpoints/EndpointsView'),
  },
  drafts: {
    label: 'Drafts',
    key: 'd',
    goes: 'Go to the drafts',
    drawing: <path d="M4 3h11l4 4v14h-15zM15 3v4h4M8 17l6 -6l2 2l-6 6h-2z" />,
    load: () => import('./drafts/DraftsView'),
  },
  rehearsal: {
    label: 'Rehearsal',
    key: 'p',
    goes: 'Go to the rehearsal',
    drawing: <path d="M3 4h18M5 4v14M19 4v14M3 21h18M9 9h6M9 13h3M12 17l3 -2l-3 -2" />,
    load: () => import('./rehearsal/RehearsalView'),
  },
  handoff: {
    label: 'Hand-off',
    key: 'h',
    goes: 'Go to the hand-off',
    drawing: <path d="M3 6h12M3 11h5M14 11h4M3 16h8M16 14v7M12.500 17.500l3.500 3.500l3.500 -3.500" />,
    load: () => import('./hand-off/HandOffView'),
  },
  reference: {
    label: 'Reference',
    key: 'r',
    goes: 'Go to the reference',
    drawing: <path d="M5 3h11a3 3 0 0 1 3 3v13h-11a3 3 0 0 1 -3 -3zM9 8h6M9 12h6" />,
    load: () => import('./reference/BesideCapture'),
    takesEmpty: true,
    takesTyping: true,
  },
} as const satisfies Readonly<Record<CaptureView, ViewEntry>>;

export const viewEntry = (view: CaptureView): ViewEntry => VIEWS[view];
