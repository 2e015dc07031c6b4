import { lazy, Suspense, useMemo } from 'react';
import { goTo } from '../state/address';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Loading, Problem } from '../ui/Problem';
import { useActions } from '../ui/use-actions';
import type { ViewProps } from '../view-props';
import { CaptureDesk } from './CaptureDesk';
import { withPointed } from './choices';
import { PresetChoice } from './PresetChoice';
import { selectedValue } from './point-at';
import { type ChoiceState, useChoice } from './use-choice';

const ReportDesk = lazy(() => import('./ReportDesk'));

/** What can leave. */
const THINGS = [
  ['capture', 'the capture'],
  ['report', 'a report'],
] as const;
type Thing = (typeof THINGS)[number][0];

/** What leaves this machine, to whom, and the proof that it may. */
export default function HandOffView(props: ViewProps) {
  const { card, place } = props;
  const state = useChoice(card.id);
  const { fetched, again, choice } = state;
  const thing: Thing = THINGS.find(([id]) => id === place.what)?.[0] ?? 'capture';
  if (fetched.state === 'failed')
    return (
      <Problem problem={fetched.problem}>
        <Button onClick={again}>Try again</Button>
      </Problem>
    );
  if (choice === undefined) return <Loading what="the hand-off" />;
  const head = (
    <>
      <Choice
        action={{ id: 'hand-off-what', label: 'Choose what is handed off', keys: ['o'] }}
        label="What is handed off"
        before="hand off"
        value={thing}
        options={THINGS}
        onChoose={(id) => goTo({ what: id === 'capture' ? undefined : id })}
      />
      <PresetChoice choice={choice} change={state.change} />
      <UndoButton state={state} />
      <PointAction change={state.change} />
    </>
  );
  return thing === 'capture' ? (
    <CaptureDesk {...props} head={head} choice={choice} change={state.change} />
  ) : (
    <Suspense fallback={<Loading what="the report" />}>
      <ReportDesk {...props} head={head} choice={choice} />
    </Suspense>
  );
}

/** Here what is selected is taken into the choice that stands on the screen, with its undo. */
function PointAction({ change }: Pick<ChoiceState, 'change'>) {
  useActions(
    'view',
    useMemo(() => {
      const run = (): void => {
        const value = selectedValue();
        if (value !== undefined) change((before) => withPointed(before, value, true));
      };
      return [
        { id: 'secret-everywhere', label: 'Secret everywhere: ink out what is selected', keys: ['Shift+S'], run },
      ];
    }, [change]),
  );
  return null;
}

function UndoButton({ state: { undo } }: { readonly state: ChoiceState }) {
  useActions(
    'view',
    useMemo(
      () =>
        undo === undefined
          ? []
          : [{ id: 'hand-off-undo', label: 'Undo the last change of the hand-off', keys: ['u'], run: undo }],
      [undo],
    ),
  );
  if (undo === undefined) return null;
  return (
    <button
      type="button"
      onClick={undo}
      aria-keyshortcuts="u"
      title="Undo the last change (u)"
      className="text-[13px] text-soft underline hover:text-ink"
    >
      undo
    </button>
  );
}
