import { useStore } from '@nanostores/react';
import { type ReactNode, Suspense, useEffect, useState } from 'react';
import { formatCount, formatPlural } from '#core/wording';
import { filteringForAddress } from '../filter/filtering-store';
import { Frame } from '../frame/Frame';
import { $place, goTo } from '../state/address';
import { Boundary, bounded } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { later, useFetchedAhead } from '../ui/later';
import { Loading, Problem } from '../ui/Problem';
import { useControl } from '../ui/use-actions';
import { SidesView } from './SidesView';
import { isWhole } from './sides';
import { useCompared } from './use-compared';

const GroupView = later(() => import('./GroupView'));
const LoadChooser = later(() => import('./LoadChooser'));
const TwoExchanges = later(() => import('./TwoExchanges'));

// What the address asks for is fetched while the loads are.
filteringForAddress();
const first = $place.get();
if (first.one !== undefined || first.other !== undefined) TwoExchanges.fetch().catch(() => undefined);
else if (!isWhole(first.sideA, first.sideB)) LoadChooser.fetch().catch(() => undefined);

/** The page of comparisons: chooses what is compared, and shows it. */
export const CompareApp = bounded(ComparePage);

function ComparePage() {
  const { sideA, sideB, one, other } = useStore($place);
  // An address that names both sides is looked at; one that is being chosen waits until that is done.
  const [isChosen, setChosen] = useState(() => isWhole(sideA, sideB));
  const isComparing = isChosen && isWhole(sideA, sideB);
  useFetchedAhead();
  useEffect(() => {
    document.title = 'Trazado, compare';
  }, []);
  if (one !== undefined || other !== undefined)
    return (
      <Page title="Two exchanges">
        <Button onClick={() => goTo({ one: undefined, other: undefined })}>Compare loads</Button>
        <Coming what="two exchanges">
          <TwoExchanges />
        </Coming>
      </Page>
    );
  if (isComparing) return <Comparison onChoose={() => setChosen(false)} />;
  return (
    <Frame view="compare" bar={<ChooserBar />}>
      <Coming what="the loads">
        <LoadChooser onDone={() => setChosen(true)} />
      </Coming>
    </Frame>
  );
}

/** A part of the page whose script may still be on its way. */
function Coming({ what, children }: { readonly what: string; readonly children: ReactNode }) {
  return (
    <Boundary>
      <Suspense fallback={<Loading what={what} />}>{children}</Suspense>
    </Boundary>
  );
}

function Page({ title, children }: { readonly title: string; readonly children: readonly [ReactNode, ReactNode] }) {
  const [button, view] = children;
  return (
    <Frame
      view="compare"
      bar={
        <>
          <h1 className="flex-1 font-bold text-base">{title}</h1>
          {button}
        </>
      }
    >
      {view}
    </Frame>
  );
}

const SEARCH = { id: 'search', label: 'Search the loads', keys: ['/'] };

function ChooserBar() {
  const { search } = useStore($place);
  const field = useControl<HTMLInputElement>(SEARCH, 'focus');
  return (
    <>
      <h1 className="font-bold text-base">Compare</h1>
      <input
        ref={field}
        type="search"
        value={search}
        onChange={({ target }) => goTo({ search: target.value })}
        aria-label="Search the loads"
        placeholder="name, host, note   /"
        className="w-64 border border-line bg-paper px-2 py-1 font-mono text-[12px]"
      />
      <span className="flex-1" />
      <Button onClick={() => goTo({ one: '', other: '' })}>Compare two exchanges</Button>
    </>
  );
}

function Comparison({ onChoose }: { readonly onChoose: () => void }) {
  const { sideA, sideB, map } = useStore($place);
  const [state, again] = useCompared(sideA, sideB, map);
  const back = (
    <>
      <h1 className="flex-1 font-bold text-base">Compare</h1>
      <Button onClick={onChoose}>Choose others</Button>
    </>
  );
  if (state.state === 'loading')
    return (
      <Frame view="compare" bar={back}>
        <p role="status" className="m-auto p-16 text-center text-soft">
          {state.loads === 0
            ? 'Loading the captures'
            : `${formatCount(state.loads)} of ${formatPlural(state.of, 'load')} read`}
        </p>
      </Frame>
    );
  if (state.state === 'failed')
    return (
      <Frame view="compare" bar={back}>
        <Problem problem={state.problem}>
          <Button onClick={again}>Try again</Button>
          <Button onClick={onChoose}>Choose others</Button>
        </Problem>
      </Frame>
    );
  if (state.shown.type === 'group')
    return (
      <Frame view="compare" bar={back}>
        <Coming what="the comparison">
          <GroupView heads={state.shown.heads} group={state.shown.group} onChoose={onChoose} />
        </Coming>
      </Frame>
    );
  return (
    <SidesView shown={state.shown} onCorrected={again} onChoose={onChoose}>
      {(bar, view) => (
        <Frame view="compare" bar={bar}>
          {view}
        </Frame>
      )}
    </SidesView>
  );
}
