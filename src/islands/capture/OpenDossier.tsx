import { atom } from 'nanostores';
import { lazy, Suspense, useCallback } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { DossierSheet } from '../dossier/DossierSheet';
import { goTo } from '../state/address';
import { fetchDossier } from '../state/api';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { copyCurl } from './copy-curl';

// Loaded with the first dossier that is opened: the chart does not need it.
const Dossier = lazy(() => import('../dossier/Dossier').then(({ Dossier }) => ({ default: Dossier })));

interface OpenDossierProps {
  readonly captureId: string;
  readonly index: number;
  readonly rows: readonly ExchangeRow[];
  readonly zoneMinutes: number;
}

/** The dossier of the current exchange, fetched when it is opened. */
export function OpenDossier({ captureId, index, rows, zoneMinutes }: OpenDossierProps) {
  const fetchIt = useCallback(() => fetchDossier(captureId, index), [captureId, index]);
  const [fetched, again] = useFetched(fetchIt);
  const close = (): void => goTo({ isOpen: false, hit: undefined });
  // The one before stays until the next has come: walking from strip to strip would flicker. What its buttons do is its own.
  const shown = fetched.state === 'there' ? fetched.value.row.index : index;
  return (
    <DossierSheet label={`Dossier of exchange ${index}`} onSection={showSection}>
      {fetched.state === 'loading' ? <Loading what={`exchange #${index}`} /> : null}
      {fetched.state === 'failed' ? (
        <Problem problem={fetched.problem}>
          <Button onClick={again}>Try again</Button>
          <Button onClick={close}>Close</Button>
        </Problem>
      ) : null}
      {fetched.state === 'there' ? (
        <Suspense fallback={<Loading what={`exchange #${index}`} />}>
          <div aria-busy={shown !== index} className={shown === index ? '' : 'opacity-40 transition-opacity delay-300'}>
            <Dossier
              captureId={captureId}
              dossier={fetched.value}
              rows={rows}
              zoneMinutes={zoneMinutes}
              onCopyCurl={() => copyCurl(captureId, shown, 'faithful')}
              onDraft={async () => (await import('../drafts/open-draft')).openDraft(captureId, shown)}
              onClose={close}
              onShown={showAsked}
            />
          </div>
        </Suspense>
      ) : null}
    </DossierSheet>
  );
}

/** A section that was asked for before the dossier was there. */
const $askedSection = atom<number | undefined>(undefined);

function showAsked(): void {
  const asked = $askedSection.get();
  $askedSection.set(undefined);
  if (asked !== undefined) showSection(asked);
}

/** Scrolls the open dossier to a section; one that is still being fetched, once it is there. */
export function showSection(number: number): void {
  const section = document.getElementById(`section-${number}`);
  if (section === null) $askedSection.set(number);
  else section.scrollIntoView({ block: 'start' });
}
