import { useMemo, useState } from 'react';
import type { Action } from '../state/actions';
import { useActions } from '../ui/use-actions';

const LOOKS = ['system', 'paper', 'blueprint'] as const;
type Look = (typeof LOOKS)[number];
const LABELS: Record<Look, string> = {
  system: 'Look: as the system has it',
  paper: 'Look: paper, light',
  blueprint: 'Look: blueprint, dark',
};
const COOKIE_DAYS = 365;

const findLook = (): Look => LOOKS.find((look) => look === document.documentElement.dataset['look']) ?? 'system';

/** A cookie, so that the server can send the page in the right look from its first paint. */
function setLook(look: Look): void {
  if (look === 'system') delete document.documentElement.dataset['look'];
  else document.documentElement.dataset['look'] = look;
  // biome-ignore lint/suspicious/noDocumentCookie: the asynchronous cookie store is not in every browser yet.
  document.cookie = `look=${look}; path=/; max-age=${COOKIE_DAYS * 86_400}; samesite=strict`;
}

/** Paper by day, blueprint by night: as the system has it, or as set here. */
export function LookSwitch() {
  const [look, keepLook] = useState<Look>(findLook);
  const choose = (next: Look): void => {
    setLook(next);
    keepLook(next);
  };
  const actions = useMemo(
    () =>
      LOOKS.map(
        (next): Action => ({
          id: `look-${next}`,
          label: LABELS[next],
          keys: [],
          run: () => {
            setLook(next);
            keepLook(next);
          },
        }),
      ),
    [],
  );
  useActions('everywhere', actions);
  return (
    <label className="flex flex-col items-center gap-1 border-line border-t py-2.5 text-[11px] text-soft">
      Look
      <select
        value={look}
        onChange={(event) => choose(LOOKS.find((known) => known === event.target.value) ?? 'system')}
        className="w-17 border border-line bg-sheet text-[11px] text-ink"
      >
        <option value="system">system</option>
        <option value="paper">paper</option>
        <option value="blueprint">blueprint</option>
      </select>
    </label>
  );
}
