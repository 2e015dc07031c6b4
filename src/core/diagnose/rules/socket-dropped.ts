import type { Failure } from '../../model';
import { CLOSE_REASONS } from '../close-code';
import type { Rule } from '../finding';
import { called } from '../say';

/** Sockets that did not come to be, or broke: closed with a code that means so, or noted by the recorder. */
export const socketDropped: Rule = function* (subject) {
  for (const row of subject.rows) {
    if (row.kind !== 'socket') continue;
    const code = subject.evidenceOf(row.index)?.closeCode;
    const reason = code === undefined ? undefined : CLOSE_REASONS.get(code);
    const isOpened = row.status === 101 || row.status === undefined;
    if (row.failure === undefined && isOpened && reason === undefined) continue;
    yield {
      severity: 'broken',
      claim: `The socket ${called(row)} ${row.status === 101 ? 'broke' : 'was not opened'}${code === undefined ? '' : `, closed with ${code}`}`,
      detail:
        reason !== undefined
          ? `The code says that ${reason}.`
          : row.failure === undefined
            ? `It returned ${row.status}.`
            : tellFailure(row.failure),
      evidence: [row.index],
      remedy: remedyFor(reason === undefined ? undefined : code),
      confidence: 'certain',
    };
  }
};

/** What can be done about a code: where the connection just went away, it is the way there that has to be looked at. */
function remedyFor(code: number | undefined): string {
  if (code === undefined || code === 1006 || code === 1015)
    return 'See whether the server and every proxy on the way let the connection be upgraded, and for how long.';
  return code >= 1011
    ? 'See the server’s log; have the page connect again after a pause.'
    : 'See in its messages what was sent last; the server’s log may say which rule that broke.';
}

/** What its recorder wrote of a failure, in its own words alone. */
function tellFailure(failure: Failure): string {
  if (failure.type === 'status') return `It returned ${failure.status}.`;
  if (failure.recorded === undefined) return 'The recorder does not say why.';
  return `The recorder wrote: ${failure.recorded.slice(0, 200).replace(/\.$/, '')}.`;
}
