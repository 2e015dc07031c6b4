import type { CaptureCard } from '#core/wire';
import { findCapture } from './db/captures';
import { ServerProblem } from './problem';
import { getTrazado } from './trazado';
import { captureParams, validate } from './validate';

/** The capture that an address names; a ServerProblem where none is on the shelf: deleted ones are not. */
export function getCapture(params: Readonly<Record<string, string | undefined>>): CaptureCard {
  const { id } = validate(captureParams, { id: params['id'] });
  const capture = findCapture(getTrazado().connection, id);
  if (capture !== undefined) return capture;
  throw new ServerProblem('not-found', 'This capture is not on the shelf.', 'Go to the shelf and drop its file again.');
}
