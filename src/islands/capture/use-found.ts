import { useCallback, useEffect, useState } from 'react';
import { type Finding, type FoundInCapture, keyOfFinding } from '#core/diagnose';
import type { ProblemAnswer } from '#core/wire';
import { dismissFinding, fetchFindings } from '../state/api';
import { tell } from '../state/notices';

/** What was found: bodies still being read, there, or not to be had. */
export type Found =
  | { readonly state: 'reading' }
  | {
      readonly state: 'there';
      readonly found: FoundInCapture;
      readonly dismissed: Readonly<Record<string, string>>;
      /** Sets the finding of a key aside for a reason, or takes that back. */
      readonly dismiss: (key: string, reason: string | undefined) => void;
    }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer };

/**
 * The key under which a finding was dismissed: its own, or that of the whole capture's finding that it is a part of.
 * Undefined where it was not.
 */
export function findAsideKey(finding: Finding, dismissed: Readonly<Record<string, string>>): string | undefined {
  const own = keyOfFinding(finding);
  if (dismissed[own] !== undefined) return own;
  return Object.keys(dismissed).find((key) => {
    const [rule, numbers = ''] = key.split(' ');
    if (rule !== finding.rule || finding.evidence.length === 0) return false;
    const about = new Set(numbers.split(',').map(Number));
    return finding.evidence.every((index) => about.has(index));
  });
}

/**
 * Fetches what was found. A capture that has just come in is still being read: it is waited for, and then its rows are
 * fetched again where they are from before, since who asked for what is known better by then.
 */
export function useFound(captureId: string, areRowsDiagnosed: boolean | undefined, refetchRows: () => void): Found {
  const [found, setFound] = useState<Found>({ state: 'reading' });
  const dismiss = useCallback(
    async (key: string, reason: string | undefined) => {
      const answer = await dismissFinding(captureId, key, reason ?? null);
      if (!answer.ok) {
        tell(answer.problem.sentence, { detail: answer.problem.advice });
        return;
      }
      setFound((before) => (before.state === 'there' ? { ...before, dismissed: answer.value } : before));
      if (reason === undefined) return;
      tell('Dismissed.', { action: { label: 'Undo', run: () => dismiss(key, undefined) } });
    },
    [captureId],
  );
  useEffect(() => {
    let isCurrent = true;
    const ask = async (): Promise<void> => {
      const answer = await fetchFindings(captureId);
      if (!isCurrent) return;
      if (!answer.ok) setFound({ state: 'failed', problem: answer.problem });
      else if (answer.value.state === 'reading') await ask();
      else {
        const { findings, byPage, dismissed } = answer.value;
        setFound({ state: 'there', found: { findings, byPage }, dismissed, dismiss });
      }
    };
    ask();
    return () => {
      isCurrent = false;
    };
  }, [captureId, dismiss]);
  const isThere = found.state === 'there';
  useEffect(() => {
    if (isThere && areRowsDiagnosed === false) refetchRows();
  }, [isThere, areRowsDiagnosed, refetchRows]);
  return found;
}
