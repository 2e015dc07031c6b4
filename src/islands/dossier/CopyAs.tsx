import { useEffect, useState } from 'react';
import type { Target, TargetId } from '#core/convert';
import { lastTarget } from '../capture/last-target';

/** Copies the request for a shell, a client or a language. */
export function CopyAs({ onCopy }: { readonly onCopy: (id: TargetId) => void }) {
  const [targets, setTargets] = useState<readonly Target[]>([]);
  const last = targets.find(({ id }) => id === lastTarget());
  useEffect(() => {
    // Conversion is large, and most dossiers are only read.
    import('#core/convert').then(({ TARGETS }) => setTargets(TARGETS));
  }, []);
  return (
    <select
      aria-label="Copy as"
      value=""
      onChange={({ target }) => {
        const chosen = targets.find(({ id }) => id === target.value);
        if (chosen !== undefined) onCopy(chosen.id);
      }}
      className="field-sizing-content border border-ink bg-sheet px-2 py-1 font-semibold text-[13px] text-ink"
    >
      <option value="">Copy as …</option>
      {last === undefined ? null : <option value={last.id}>{last.label}, as last time</option>}
      {targets.map(({ id, label }) => (
        <option key={id} value={id}>
          {label}
        </option>
      ))}
    </select>
  );
}
