import { Suspense, useCallback, useEffect, useMemo, useRef } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { DossierSheet } from '../dossier/DossierSheet';
import { SECTIONS } from '../dossier/sections';
import type { Action } from '../state/actions';
import { goTo } from '../state/address';
import { fetchDossier } from '../state/api';
import { Boundary } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { later } from '../ui/later';
import { Loading, Problem } from '../ui/Problem';
import { useActions } from '../ui/use-actions';
import { useFetched } from '../ui/use-fetched';
import { compareMark } from './compare-mark';
import { copyAs, copyCurl } from './copy-curl';

const Dossier = later(() => import('../dossier/Dossier'));

interface OpenDossierProps {
  readonly captureId: string;
  readonly index: number;
  readonly rows: readonly ExchangeRow[];
  readonly zoneMinutes: number;
  /** What it is called, where it is none of the capture's exchanges. */
  readonly name?: string;
  readonly onClose?: () => void;
  /** Makes a draft of it; without, a new one is begun. */
  readonly onDraft?: () => void;
}

const close = (): void => goTo({ isOpen: false, hit: undefined, against: undefined });

const dossierActions = (showSection: (number: number) => void, onClose: () => void): readonly Action[] => [
  { id: 'close', label: 'Close the dossier', keys: ['Escape'], run: onClose },
  ...SECTIONS.map(
    (title, at): Action => ({
      id: `section-${at + 1}`,
      label: `Dossier: go to ${title.toLowerCase()}`,
      keys: [String(at + 1)],
      run: () => showSection(at + 1),
    }),
  ),
];

/** Says that what stands before it is drawn. */
function Drawn({ onDrawn }: { readonly onDrawn: () => void }) {
  useEffect(onDrawn, [onDrawn]);
  return null;
}

/** The dossier of the current exchange, fetched when it is opened. Long because of all that it hands on to it. */
export default function OpenDossier({
  captureId,
  index,
  rows,
  zoneMinutes,
  name = `exchange ${index}`,
  onClose = close,
  onDraft,
}: OpenDossierProps) {
  const fetchIt = useCallback(() => fetchDossier(captureId, index), [captureId, index]);
  const [fetched, again] = useFetched(fetchIt);
  const sections = useRef(new Map<number, HTMLElement>());
  /** A section that was asked for before the dossier was there. */
  const asked = useRef<number>(undefined);
  const showSection = useCallback((number: number): void => {
    const section = sections.current.get(number);
    asked.current = section === undefined ? number : undefined;
    section?.scrollIntoView({ block: 'start' });
  }, []);
  const onShown = useCallback(() => {
    if (asked.current !== undefined) showSection(asked.current);
  }, [showSection]);
  useActions(
    'exchange',
    useMemo(() => dossierActions(showSection, onClose), [showSection, onClose]),
  );
  // The one before stays until the next has come: walking from strip to strip would flicker. What its buttons do is its own.
  const shown = fetched.state === 'there' ? fetched.value.row.index : index;
  return (
    <DossierSheet label={`Dossier of ${name}`} onSection={showSection}>
      {fetched.state === 'loading' ? <Loading what={`exchange #${index}`} /> : null}
      {fetched.state === 'failed' ? (
        <Problem problem={fetched.problem}>
          <Button onClick={again}>Try again</Button>
          <Button onClick={onClose}>Close</Button>
        </Problem>
      ) : null}
      {fetched.state === 'there' ? (
        <Boundary of={shown}>
          <Suspense fallback={<Loading what={`exchange #${index}`} />}>
            <div
              aria-busy={shown !== index}
              className={shown === index ? '' : 'opacity-40 transition-opacity delay-300'}
            >
              <Dossier
                captureId={captureId}
                dossier={fetched.value}
                rows={rows}
                zoneMinutes={zoneMinutes}
                onCopyCurl={() => copyCurl(captureId, shown, 'faithful')}
                onCopyAs={(id) => copyAs(captureId, shown, id, 'faithful')}
                onDraft={onDraft ?? (async () => (await import('../drafts/open-draft')).openDraft(captureId, shown))}
                onCompare={() => compareMark(captureId, shown)}
                onClose={onClose}
                sections={sections}
              />
              <Drawn onDrawn={onShown} />
            </div>
          </Suspense>
        </Boundary>
      ) : null}
    </DossierSheet>
  );
}
