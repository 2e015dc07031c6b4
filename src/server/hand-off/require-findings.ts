import { ServerProblem } from '../problem';
import { getTrazado } from '../trazado';

/** Waits until a capture has been diagnosed: the proof holds what leaves against that. @throws ServerProblem */
export async function requireFindings(captureId: string): Promise<void> {
  const found = await getTrazado().findings(captureId);
  if (found === undefined)
    throw new ServerProblem('not-ready', 'The capture is still being read.', 'Try again in a moment.');
}
