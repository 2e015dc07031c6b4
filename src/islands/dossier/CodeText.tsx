import { useMemo } from 'react';
import { formatJson } from '#core/json';
import type { HitTarget } from '../state/hit';

interface CodeTextProps {
  readonly text: string;
  readonly isJson: boolean;
  /** What was found in it, to be marked. */
  readonly hit?: HitTarget | undefined;
}

/** Around a hit that lies far in, so much is shown. */
const AROUND_CHARS = 20_000;
const FAR_IN_CHARS = 200_000;

/** Text as it is; JSON formatted. */
export function CodeText({ text, isJson, hit }: CodeTextProps) {
  const { before, match, after } = useMemo(() => cut(text, isJson, hit), [text, isJson, hit]);
  return (
    <pre className="overflow-x-auto whitespace-pre-wrap break-words border border-line bg-paper p-2 font-mono text-[12px]">
      {before}
      {match === '' ? null : (
        <mark data-hit-mark className="bg-route-wash font-bold text-ink underline decoration-2 decoration-route">
          {match}
        </mark>
      )}
      {after}
    </pre>
  );
}

interface CutText {
  readonly before: string;
  readonly match: string;
  readonly after: string;
}

/** The text in three: before the hit, the hit, after it. */
function cut(text: string, isJson: boolean, hit: HitTarget | undefined): CutText {
  const laid = isJson ? formatJson(text) : undefined;
  const shown = laid?.text ?? text;
  if (hit === undefined) return { before: shown, match: '', after: '' };
  const place = (offset: number): number => laid?.placeOf(offset) ?? offset;
  const [from, to] = [place(hit.offset), place(hit.offset + hit.length - 1) + 1];
  const isFarIn = shown.length > FAR_IN_CHARS;
  const start = isFarIn ? Math.max(0, from - AROUND_CHARS) : 0;
  return {
    before: `${start > 0 ? '…' : ''}${shown.slice(start, from)}`,
    match: shown.slice(from, to),
    after: shown.slice(to, isFarIn ? to + AROUND_CHARS : undefined),
  };
}
