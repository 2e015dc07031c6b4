import { holdTyping } from '../state/actions';
import { $place, type CaptureView, goTo } from '../state/address';
import { focusHome } from '../state/focus';
import { viewEntry } from '../views';

/** Goes to a view of the capture. Whoever goes to one with a field types at once: where it is there already it has the focus. */
export function enterView(view: CaptureView): void {
  const isThere = $place.get().view === view;
  if (viewEntry(view).takesTyping === true && !isThere) holdTyping();
  goTo({ view, isOpen: false });
  if (isThere) focusHome();
}
