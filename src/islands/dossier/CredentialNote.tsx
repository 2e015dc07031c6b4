import { useMemo } from 'react';
import { readCredentials, type Standing, standingAt } from '#core/content';
import { formatSpan } from '#core/wording';

interface CredentialNoteProps {
  readonly value: string;
  readonly at: number | undefined;
}

/** What a credential holds, without its secret: a token's claims and whether it was valid then, a basic user's name. */
export function CredentialNote({ value, at }: CredentialNoteProps) {
  const found = useMemo(() => (value.length > MOST_CHARS ? undefined : readCredentials(value)), [value]);
  if (found === undefined) return null;
  if (found.type === 'basic') {
    return <p className="font-sans text-[12px] text-soft">Basic credentials of the user “{found.user}”.</p>;
  }
  return (
    <details className="font-sans text-[12px] text-soft" data-token>
      <summary>token, {standingWords(standingAt(found, at))}</summary>
      <pre className="mt-1 whitespace-pre-wrap break-words font-mono text-ink">
        {JSON.stringify({ ...found.header, ...found.claims }, null, 2)}
      </pre>
    </details>
  );
}
/** No credential is as long. */
const MOST_CHARS = 20_000;

function standingWords(standing: Standing): string {
  switch (standing.type) {
    case 'valid':
      return `valid ${formatSpan(standing.forMs)} more when it was sent`;
    case 'expired':
      return `expired ${formatSpan(standing.sinceMs)} before it was sent`;
    case 'not-yet':
      return `valid only ${formatSpan(standing.inMs)} after it was sent`;
    case 'unknown':
      return 'which does not say how long it is valid';
    default:
      return standing satisfies never;
  }
}
