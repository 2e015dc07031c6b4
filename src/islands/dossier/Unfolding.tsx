import { createContext, type ReactNode, useContext, useState } from 'react';
import { type Unfolded, unfoldValue } from '#core/content';
import { formatInstant, formatSpan, formatZone } from '#core/wording';

/** In which zone instants are shown, and what they are held against: given by the dossier around them. */
export const Moment = createContext<{ readonly zoneMinutes: number; readonly at: number | undefined }>({
  zoneMinutes: 0,
  at: undefined,
});

/** What a value says once it is read as what it seems to be: an instant, or encoded text. Nothing for plain values. */
export function Unfolding({ value }: { readonly value: string }) {
  const moment = useContext(Moment);
  const unfolded = unfoldValue(value);
  if (unfolded === undefined) return null;
  if (unfolded.type === 'instant') {
    return (
      <p data-unfolded className="font-sans text-[12px] text-soft">
        {instantWords(unfolded, moment.zoneMinutes, moment.at)}
      </p>
    );
  }
  return (
    <Folded words={unfolded.type === 'base64' ? 'base64, decoded' : 'URL-encoded, decoded'}>{unfolded.text}</Folded>
  );
}

function instantWords(
  { at, unit }: Extract<Unfolded, { type: 'instant' }>,
  zoneMinutes: number,
  startedAt: number | undefined,
): string {
  const unitWord = unit === 's' ? 'seconds' : unit === 'ms' ? 'milliseconds' : 'microseconds';
  const instant = `As ${unitWord} since 1970: ${formatInstant(at, zoneMinutes)} ${formatZone(zoneMinutes)}`;
  if (startedAt === undefined) return `${instant}.`;
  const apart = Math.abs(at - startedAt);
  return `${instant}, ${formatSpan(apart)} ${at > startedAt ? 'after' : 'before'} this exchange.`;
}

function Folded({ words, children }: { readonly words: string; readonly children: ReactNode }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <div data-unfolded className="font-sans text-[12px]">
      <button
        type="button"
        aria-expanded={isOpen}
        onClick={() => setOpen(!isOpen)}
        className="text-soft underline decoration-dotted hover:text-ink"
      >
        {words}
      </button>
      {isOpen ? (
        <pre className="whitespace-pre-wrap break-words border-line border-l-2 pl-2 font-mono">{children}</pre>
      ) : null}
    </div>
  );
}
