import { useCallback, useEffect, useState } from 'react';
import type { Finding } from '#core/diagnose';
import type { ProblemAnswer } from '#core/wire';
import { dismissFinding, fetchFindings } from '../state/api';
import { tell } from '../state/notices';

/** What was found: bodies still being read, there, or not to be had. */
export type Found =
  | { readonly state: 'reading' }
  | {
      readonly state: 'there';
      readonly findings: readonly Finding[];
      readonly dismissed: Readonly<Record<string, string>>;
      /** Sets a finding aside for a reason, or takes that back. */
      readonly dismiss: (finding: Finding, reason: string | undefined) => void;
    }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer };

export const keyOfFinding = ({ rule, evidence }: Finding): string => `${rule} ${evidence.join(',')}`;

/**
 * Fetches what was found. A capture that has just come in is still being read: it is waited for, and then its rows are
 * fetched again where they are from before, since who asked for what is known better by then.
 */
export function useFound(captureId: string, areRowsDiagnosed: boolean | undefined, refetchRows: () => void): Found {
  const [found, setFound] = useState<Found>({ state: 'reading' });
  const dismiss = useCallback(
    async (finding: Finding, reason: string | undefined) => {
      const answer = await dismissFinding(captureId, keyOfFinding(finding), reason ?? null);
      if (!answer.ok) {
        tell(answer.problem.sentence, { detail: answer.problem.advice });
        return;
      }
      setFound((before) => (before.state === 'there' ? { ...before, dismissed: answer.value } : before));
      if (reason === undefined) return;
      tell('Set aside.', { action: { label: 'Undo', run: () => dismiss(finding, undefined) } });
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
        const { findings, dismissed } = answer.value;
        setFound({ state: 'there', findings, dismissed, dismiss });
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
