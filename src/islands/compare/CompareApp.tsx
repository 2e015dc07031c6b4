import { useStore } from '@nanostores/react';
import { type ReactNode, useEffect, useState } from 'react';
import { formatCount, formatPlural } from '#core/wording';
import { Frame } from '../frame/Frame';
import { $place, goTo } from '../state/address';
import { bounded } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { Problem } from '../ui/Problem';
import { useControl } from '../ui/use-actions';
import { GroupView } from './GroupView';
import { LoadChooser } from './LoadChooser';
import { SidesView } from './SidesView';
import { isWhole } from './sides';
import { TwoExchanges } from './TwoExchanges';
import { useCompared } from './use-compared';

/** The page of comparisons: chooses what is compared, and shows it. */
export const CompareApp = bounded(ComparePage);

function ComparePage() {
  const { sideA, sideB, one, other } = useStore($place);
  // An address that names both sides is looked at; one that is being chosen waits until that is done.
  const [isChosen, setChosen] = useState(() => isWhole(sideA, sideB));
  const isComparing = isChosen && isWhole(sideA, sideB);
  useEffect(() => {
    document.title = 'Trazado, compare';
  }, []);
  if (one !== undefined || other !== undefined)
    return (
      <Page title="Two exchanges">
        <Button onClick={() => goTo({ one: undefined, other: undefined })}>Compare loads</Button>
        <TwoExchanges />
      </Page>
    );
  if (isComparing) return <Comparison onChoose={() => setChosen(false)} />;
  return (
    <Frame view="compare" bar={<ChooserBar />}>
      <LoadChooser onDone={() => setChosen(true)} />
    </Frame>
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
        <GroupView heads={state.shown.heads} group={state.shown.group} onChoose={onChoose} />
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
