import { useStore } from '@nanostores/react';
import { useCallback, useEffect, useMemo } from 'react';
import type { ExchangeRow } from '#core/analysis';
import type { CaptureCard } from '#core/wire';
import { Dossier, DossierSheet, SECTIONS } from '../dossier/Dossier';
import { Frame } from '../frame/Frame';
import { offsetOf, ZoneChooser } from '../frame/ZoneChooser';
import type { Action } from '../state/actions';
import { $place, goTo } from '../state/address';
import { fetchCapture, fetchDossier, fetchRows } from '../state/api';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { ALL_PAGES, arrange, choosePage } from '../waterfall/arrange';
import { Waterfall } from '../waterfall/Waterfall';
import { ConditionReport } from './ConditionReport';
import { copyCurl } from './copy-curl';

interface CaptureAppProps {
  readonly captureId: string;
}

interface Loaded {
  readonly card: CaptureCard;
  readonly rows: readonly ExchangeRow[];
}

/** One capture: fetches it once and shows the view that the address names. */
export function CaptureApp({ captureId }: CaptureAppProps) {
  const fetchAll = useCallback(async () => {
    const [card, rows] = await Promise.all([fetchCapture(captureId), fetchRows(captureId)]);
    if (!card.ok) return card;
    return rows.ok ? { ok: true as const, value: { card: card.value, rows: rows.value } } : rows;
  }, [captureId]);
  const [fetched, again] = useFetched<Loaded>(fetchAll);
  if (fetched.state === 'there') return <CaptureView {...fetched.value} />;
  return (
    <Frame view="waterfall" captureId={captureId} bar={null} actions={NO_ACTIONS}>
      {fetched.state === 'loading' ? (
        <Loading what="the capture" />
      ) : (
        <Problem problem={fetched.problem}>
          <Button onClick={again}>Try again</Button>
          <Button onClick={() => location.assign('/')}>To the shelf</Button>
        </Problem>
      )}
    </Frame>
  );
}

const NO_ACTIONS: readonly Action[] = [];

function CaptureView({ card, rows }: Loaded) {
  const place = useStore($place);
  const { pages } = card.overview;
  const arrangement = useMemo(() => arrange(rows, pages, place.page), [rows, pages, place.page]);
  const { placed } = arrangement;
  const current = placed.some(({ row }) => row.index === place.exchange) ? place.exchange : undefined;
  const actions = useActions(
    card.id,
    placed.map(({ row }) => row.index),
    current,
    place.isOpen,
  );
  useEffect(() => {
    document.title = `${card.name}, waterfall`;
  }, [card.name]);
  const bar = (
    <>
      <h1 className="truncate font-bold text-base">{card.name}</h1>
      <PageChooser pages={pages} asked={place.page} />
      <ConditionReport report={card.overview.condition} />
      <span className="flex-1" />
      <ZoneChooser recorded={card.utcOffsetMinutes} isShelf={false} epoch={card.overview.recordedAt ?? 0} />
    </>
  );
  const zoneMinutes = offsetOf(place.zone, card.utcOffsetMinutes, card.overview.recordedAt ?? 0);
  return (
    <Frame view="waterfall" captureId={card.id} bar={bar} actions={actions}>
      {rows.length === 0 ? (
        <EmptyCapture card={card} />
      ) : (
        <Waterfall
          arrangement={arrangement}
          current={current}
          onPick={(exchange) => goTo({ exchange, isOpen: true })}
        />
      )}
      {current !== undefined && place.isOpen ? (
        <OpenDossier captureId={card.id} index={current} zoneMinutes={zoneMinutes} />
      ) : null}
    </Frame>
  );
}

function useActions(
  captureId: string,
  order: readonly number[],
  current: number | undefined,
  isOpen: boolean,
): Action[] {
  return useMemo(() => {
    const step = (by: number): void => {
      const at = current === undefined ? -1 : order.indexOf(current);
      const next = order[Math.min(order.length - 1, Math.max(0, at === -1 && by < 0 ? 0 : at + by))];
      if (next !== undefined) goTo({ exchange: next });
    };
    const whenCurrent = (run: (index: number) => void) => (): void => {
      if (current !== undefined) run(current);
    };
    const sections = isOpen
      ? SECTIONS.map(
          (title, at): Action => ({
            id: `section-${at + 1}`,
            label: `Dossier: go to ${title.toLowerCase()}`,
            keys: [String(at + 1)],
            run: () => showSection(at + 1),
          }),
        )
      : [];
    return [
      { id: 'next', label: 'Next exchange', keys: isOpen ? ['j'] : ['j', 'ArrowDown'], run: () => step(1) },
      { id: 'previous', label: 'Previous exchange', keys: isOpen ? ['k'] : ['k', 'ArrowUp'], run: () => step(-1) },
      { id: 'first', label: 'First exchange', keys: ['Home'], run: () => step(-order.length) },
      { id: 'last', label: 'Last exchange', keys: ['End'], run: () => step(order.length) },
      {
        id: 'open',
        label: 'Open the dossier of the current exchange',
        keys: ['Enter'],
        run: whenCurrent(() => goTo({ isOpen: true })),
      },
      { id: 'close', label: 'Close the dossier', keys: ['Escape'], run: () => goTo({ isOpen: false }) },
      {
        id: 'curl',
        label: 'Copy the curl command',
        keys: ['c'],
        run: whenCurrent((index) => copyCurl(captureId, index, 'faithful')),
      },
      {
        id: 'curl-lean',
        label: 'Copy the curl command without what only browsers add',
        keys: ['Shift+C'],
        run: whenCurrent((index) => copyCurl(captureId, index, 'lean')),
      },
      ...sections,
    ];
  }, [captureId, order, current, isOpen]);
}

const showSection = (number: number): void =>
  document.getElementById(`section-${number}`)?.scrollIntoView({ block: 'start' });

interface OpenDossierProps {
  readonly captureId: string;
  readonly index: number;
  readonly zoneMinutes: number;
}

function OpenDossier({ captureId, index, zoneMinutes }: OpenDossierProps) {
  const fetchIt = useCallback(() => fetchDossier(captureId, index), [captureId, index]);
  const [fetched, again] = useFetched(fetchIt);
  const close = (): void => goTo({ isOpen: false });
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
        <Dossier
          captureId={captureId}
          dossier={fetched.value}
          zoneMinutes={zoneMinutes}
          onCopyCurl={() => copyCurl(captureId, index, 'faithful')}
          onClose={close}
        />
      ) : null}
    </DossierSheet>
  );
}

interface PageChooserProps {
  readonly pages: CaptureCard['overview']['pages'];
  readonly asked: string | undefined;
}

function PageChooser({ pages, asked }: PageChooserProps) {
  const chosen = choosePage(pages, asked);
  if (pages.length === 0) return <span className="shrink-0 text-soft">no page named</span>;
  return (
    <select
      aria-label="Page"
      value={chosen?.id ?? ALL_PAGES}
      onChange={(event) => goTo({ page: event.target.value, isOpen: false, exchange: undefined })}
      className="min-w-0 max-w-96 bg-sheet px-1 text-soft"
    >
      {pages.map((page, at) => (
        <option key={page.id} value={page.id}>
          page {at + 1} of {pages.length}: {page.title || 'no title'}
        </option>
      ))}
      <option value={ALL_PAGES}>all exchanges, on one clock</option>
    </select>
  );
}

function EmptyCapture({ card }: { readonly card: CaptureCard }) {
  const [condition] = card.overview.condition;
  return (
    <Problem
      problem={{
        sentence: condition?.sentence ?? 'It holds no exchanges.',
        advice: condition?.advice ?? 'Record the page load again.',
      }}
    >
      <Button onClick={() => location.assign('/')}>To the shelf</Button>
    </Problem>
  );
}
