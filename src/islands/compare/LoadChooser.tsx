import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import type { PageOverview } from '#core/analysis';
import type { CaptureCard } from '#core/wire';
import { formatMs, formatPlural } from '#core/wording';
import { $place } from '../state/address';
import { fetchCaptures } from '../state/api';
import { useOneTabStop } from '../state/focus';
import { Button } from '../ui/Button';
import { Loading, Nothing, Problem } from '../ui/Problem';
import { useActions } from '../ui/use-actions';
import { useFetched } from '../ui/use-fetched';
import { callLoad, loadsOf, writeLoadName } from './load-name';
import { isWhole, turnSide } from './sides';

interface LoadChooserProps {
  /** The choice is whole: it is to be compared. */
  readonly onDone: () => void;
}

/** Every load of the shelf, each page by itself, to be put on side A or side B; any number on either. */
export default function LoadChooser({ onDone }: LoadChooserProps) {
  const [fetched, again] = useFetched(fetchCaptures);
  useActions('view', MARKS);
  const { sideA, sideB, search } = useStore($place);
  const list = useOneTabStop<HTMLUListElement>('[data-load]');
  const loads = useMemo(() => (fetched.state === 'there' ? allLoads(fetched.value, search) : []), [fetched, search]);
  if (fetched.state === 'loading') return <Loading what="the shelf" />;
  if (fetched.state === 'failed')
    return (
      <Problem problem={fetched.problem}>
        <Button onClick={again}>Try again</Button>
      </Problem>
    );
  if (fetched.value.length === 0)
    return (
      <Nothing sentence="There is nothing to compare yet." advice="Import two captures or more first.">
        <Button onClick={() => location.assign('/')}>To the shelf</Button>
      </Nothing>
    );
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex flex-wrap items-center gap-4 border-line border-b bg-sheet px-4 py-2">
        <p className="min-w-0 flex-1">
          Put loads on side A, from which, and on side B, to which. Several on a side are told by their medians; with
          five and more on one side alone you see what the slow ones share.
        </p>
        <b role="status">
          {formatPlural(sideA.length, 'load')} on A, {sideB.length} on B
        </b>
        <Button
          isMain
          isOff={!isWhole(sideA, sideB)}
          action={{ id: 'compare', label: 'Compare what is chosen', keys: ['m'] }}
          onClick={onDone}
        >
          Compare
        </Button>
      </div>
      <ul ref={list} data-home="" tabIndex={-1} className="min-h-0 flex-1 overflow-auto px-4 py-2 outline-none">
        {loads.map(({ name, called, card, page }) => (
          <li key={name} data-load={name} className="flex items-center gap-3 border-grid border-b py-1.5">
            <SideButton side="A" name={name} called={called} chosen={sideA} />
            <SideButton side="B" name={name} called={called} chosen={sideB} />
            <span className="min-w-0 flex-1">
              <span className="block truncate font-semibold">{called}</span>
              <span className="block truncate text-[12px] text-soft">
                {page === undefined ? card.overview.sentence : tellPage(page)}
              </span>
            </span>
          </li>
        ))}
        {loads.length === 0 ? <li className="p-6 text-soft">No matching loads. Clear the search to see all.</li> : null}
      </ul>
    </div>
  );
}

/** What is known of one page of several. */
function tellPage({ title, loadedMs, domReadyMs, exchanges }: PageOverview): string {
  const came =
    loadedMs !== undefined
      ? `loaded in ${formatMs(loadedMs)}`
      : domReadyMs !== undefined
        ? `DOM ready after ${formatMs(domReadyMs)}, loaded unknown`
        : 'no milestone';
  return `${title || 'No title'}: ${formatPlural(exchanges, 'exchange')}, ${came}.`;
}

/** Puts the load that has the focus on a side. */
const markCurrent = (side: 'A' | 'B') => (): void => {
  const name = document.activeElement?.closest('[data-load]')?.getAttribute('data-load');
  if (name !== undefined && name !== null) turnSide(side, name);
};
const MARKS = [
  { id: 'side-a', label: 'Put the current load on side A, or take it back', keys: ['a'], run: markCurrent('A') },
  { id: 'side-b', label: 'Put the current load on side B, or take it back', keys: ['b'], run: markCurrent('B') },
];

interface ListedLoad {
  readonly name: string;
  readonly called: string;
  readonly card: CaptureCard;
  readonly page: PageOverview | undefined;
}

function allLoads(cards: readonly CaptureCard[], search: string): ListedLoad[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  return cards
    .flatMap((card) =>
      loadsOf(card).map((load) => ({
        name: writeLoadName(load),
        called: callLoad(card, load.page),
        card,
        page: load.page === undefined ? undefined : card.overview.pages[load.page - 1],
      })),
    )
    .filter(({ called, card, page }) => {
      const text = `${called} ${card.note} ${card.overview.host} ${page?.title ?? ''}`.toLowerCase();
      return words.every((word) => text.includes(word));
    });
}

interface SideButtonProps {
  readonly side: 'A' | 'B';
  readonly name: string;
  readonly called: string;
  readonly chosen: readonly string[];
}

function SideButton({ side, name, called, chosen }: SideButtonProps) {
  const isOn = chosen.includes(name);
  return (
    <button
      type="button"
      aria-pressed={isOn}
      aria-label={`${called} on side ${side}`}
      onClick={() => turnSide(side, name)}
      className={`size-7 border border-ink font-bold ${isOn ? 'bg-ink text-paper' : 'bg-sheet text-soft hover:text-ink'}`}
    >
      {side}
    </button>
  );
}
