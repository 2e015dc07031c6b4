import { getCapture } from '../known-capture';
import { ServerProblem } from '../problem';
import { getTrazado } from '../trazado';

/** What was made of a capture, as an address names it. @throws ServerProblem where it was dropped since */
export function getMade(params: Readonly<Record<string, string | undefined>>) {
  const { id } = getCapture(params);
  const kept = getTrazado().handOffs.find(id, params['made'] ?? '');
  if (kept !== undefined) return kept;
  throw new ServerProblem('not-found', 'What was to leave is no longer kept.', 'Make it again.');
}
