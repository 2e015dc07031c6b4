import { useEffect, useState } from 'react';
import type { FindQuery, Hit } from '#core/find';
import type { FindProgress } from '#core/wire';
import { streamFind } from '../state/api';

/** Where a search stands. */
export type Finding =
  | { readonly state: 'idle' }
  | {
      readonly state: 'running' | 'ended';
      readonly hits: readonly Hit[];
      readonly searched: number;
      readonly problem: string | undefined;
    };

/** Typing rests this long before it is searched for. */
const REST_MS = 250;

/** Searches a capture for what is asked; a new question ends the search for the one before. */
export function useFind(captureId: string, query: FindQuery): Finding {
  const [finding, setFinding] = useState<Finding>({ state: 'idle' });
  const { text, isRegex, matchesCase, wholeWord } = query;
  useEffect(() => {
    if (text === '') {
      setFinding({ state: 'idle' });
      return;
    }
    const stop = new AbortController();
    let hits: readonly Hit[] = [];
    let searched = 0;
    const hear = (message: FindProgress): void => {
      if (message.type === 'found') {
        hits = message.hits.length === 0 ? hits : [...hits, ...message.hits];
        ({ searched } = message);
        setFinding({ state: 'running', hits, searched, problem: undefined });
      } else setFinding({ state: 'ended', hits, searched, problem: message.problem });
    };
    const timer = setTimeout(async () => {
      setFinding({ state: 'running', hits, searched, problem: undefined });
      const problem = await streamFind(captureId, { text, isRegex, matchesCase, wholeWord }, hear, stop.signal);
      if (problem !== undefined && !stop.signal.aborted) setFinding({ state: 'ended', hits, searched, problem });
    }, REST_MS);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [captureId, text, isRegex, matchesCase, wholeWord]);
  return finding;
}
