import { tell } from './notices';

// Scripts are fetched when they are first needed, and by then Trazado may have been stopped, or updated.

export const UNLOADED = {
  sentence:
    'This part of Trazado could not be loaded: it has probably been stopped, or updated since this page was opened.',
  advice: 'Start it in its terminal if it does not run, then reload the page.',
};

const unloaded = new WeakSet<object>();

/** Whether a script could not be fetched, and that is what was thrown. */
export const isUnloaded = (thrown: unknown): boolean =>
  typeof thrown === 'object' && thrown !== null && unloaded.has(thrown);

/** Tells of scripts that an action asked for in vain. Returns the way to stop. */
export function tellUnloaded(): () => void {
  const note = (event: Event & { readonly payload?: unknown }): void => {
    if (typeof event.payload === 'object' && event.payload !== null) unloaded.add(event.payload);
  };
  const onRejected = ({ reason }: PromiseRejectionEvent): void => {
    if (!isUnloaded(reason)) return;
    tell(UNLOADED.sentence, {
      detail: UNLOADED.advice,
      action: { label: 'Reload the page', run: () => location.reload() },
    });
  };
  addEventListener('vite:preloadError', note);
  addEventListener('unhandledrejection', onRejected);
  return () => {
    removeEventListener('vite:preloadError', note);
    removeEventListener('unhandledrejection', onRejected);
  };
}
