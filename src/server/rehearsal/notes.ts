import { type Asked, compareRequests, type Match, tellVerdict, verdictOf } from '#core/rehearse';
import type { AskedNotes } from '#core/wire';

/** What is told of a request that a captured one fits. */
export function fittingNotes(
  asked: Asked,
  match: Extract<Match, { type: 'fits' }>,
  remarks: readonly string[],
): AskedNotes {
  const differences = compareRequests(match.exchange, asked);
  return {
    taken: match.exchange.index,
    fits: 'fits',
    verdict: verdictOf(differences),
    sentence: tellVerdict(differences),
    differences,
    remarks,
    turn: match.turn,
    of: match.of,
    head: '',
  };
}

/** What is told of one that none fits. */
export const notesWithout = (fits: 'none' | 'forwarded' | 'allowed', sentence: string): AskedNotes => ({
  taken: undefined,
  fits,
  verdict: undefined,
  sentence,
  differences: [],
  remarks: [],
  head: '',
});

export const refusedNotes = (sentence: string, head: string): AskedNotes => ({
  ...notesWithout('none', sentence),
  fits: 'refused',
  head,
});
