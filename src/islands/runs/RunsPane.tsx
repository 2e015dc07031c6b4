import { useStore } from '@nanostores/react';
import { useEffect, useRef, useState } from 'react';
import type { LoopFields } from '#core/convert';
import { type KeptDraft, withSheet } from '#core/sheet';
import { RUN_KINDS, type Run, type RunKind } from '#core/wire';
import OpenDossier from '../capture/OpenDossier';
import { fetchSentSheet } from '../drafts/draft-api';
import { $place, goTo } from '../state/address';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Problem } from '../ui/Problem';
import { giveNotice, NoticeChoice, type NoticeWanted } from './notice';
import { RUN_FORMS } from './RunForms';
import { RunView } from './RunView';
import type { Runs } from './use-runs';

interface RunsPaneProps {
  readonly captureId: string;
  readonly kept: KeptDraft;
  readonly runs: Runs;
  readonly zoneMinutes: number;
  readonly open: RunKind | undefined;
  readonly onOpen: (kind: RunKind | undefined) => void;
  readonly onChange: (change: (kept: KeptDraft) => KeptDraft) => void;
}

/** What sends the draft many times, each by its word and key. */
const KINDS: { readonly [K in RunKind]: { readonly word: string; readonly label: string; readonly key: string } } = {
  trim: { word: 'Trim', label: 'Trim: find which parts are needed', key: 'Shift+T' },
  series: { word: 'Series', label: 'Series: send it over a range of values', key: 'Shift+L' },
  grow: { word: 'Grow', label: 'Grow: find the most that it gives', key: 'Shift+G' },
  watch: { word: 'Watch', label: 'Watch: send it again until something holds', key: 'Shift+W' },
};

/**
 * Trim, series, growing and watch: what each asks, how it goes, and what came of it.
 * Long because it is one column from the choice of a kind to its dossier, in the order in which it is read.
 */
export function RunsPane({ captureId, kept, runs, zoneMinutes, open, onOpen, onChange }: RunsPaneProps) {
  const { current } = runs;
  const place = useStore($place);
  useStruck(runs, kept, onChange);
  const [wanted, setWanted] = useState<NoticeWanted>({ isNotice: false, isSound: false });
  useNotice(runs, wanted);
  const Form = open === undefined ? undefined : RUN_FORMS[open];
  const put = async (run: Run, what: 'needed' | 'before'): Promise<void> => {
    if (what === 'needed' && run.result.trim !== undefined) onChange(withTrim(run));
    else {
      const answer = await fetchSentSheet(captureId, run.id, 1);
      if (answer.ok) onChange((one) => ({ ...withSheet(one, { ...one.sheet, text: answer.value.text }), needed: [] }));
      else tell(answer.problem.sentence, { detail: answer.problem.advice });
    }
  };
  return (
    <section aria-label="Sent many times" className="mt-3 border-line border-t pt-3 text-[13px]">
      <Kinds runs={runs} open={open} onOpen={onOpen} />
      {runs.problem === undefined ? null : (
        <Problem problem={runs.problem}>
          <Button onClick={runs.again}>Try again</Button>
        </Problem>
      )}
      {Form === undefined ? null : (
        <fieldset aria-label={KINDS[open as RunKind].label} className="mt-2 border border-line bg-sheet p-3">
          <Form
            key={`${kept.id} ${open}`}
            kept={kept}
            onBegin={(order) => {
              runs.begin(order);
              // The series' fields are those of the code, too: they stay.
              if (order.kind !== 'series') onOpen(undefined);
            }}
            onLoop={(loop: LoopFields) => onChange((one) => ({ ...one, loop }))}
          />
          {open === 'watch' ? <NoticeChoice wanted={wanted} onWanted={setWanted} /> : null}
        </fieldset>
      )}
      <Question runs={runs} />
      {current === undefined ? null : (
        <RunView
          key={current.id}
          captureId={captureId}
          kept={kept}
          run={current}
          runs={runs}
          zoneMinutes={zoneMinutes}
          onPut={(run, what) => void put(run, what)}
        />
      )}
      {current === undefined || place.run !== current.id || place.trial === undefined ? null : (
        <OpenDossier
          captureId={current.id}
          index={place.trial}
          rows={runs.steps.map(({ row }) => row)}
          zoneMinutes={zoneMinutes}
          name={`request ${place.trial}`}
          onClose={closeStep}
        />
      )}
    </section>
  );
}

/** The kinds of runs to be begun, and the runs that there are. */
function Kinds({ runs, open, onOpen }: Pick<RunsPaneProps, 'runs' | 'open' | 'onOpen'>) {
  const { current } = runs;
  return (
    <div className="flex flex-wrap items-center gap-2">
      {RUN_KINDS.map((kind) => (
        <Button
          key={kind}
          action={{ id: `run-${kind}`, label: KINDS[kind].label, keys: [KINDS[kind].key] }}
          isMain={open === kind}
          onClick={() => onOpen(open === kind ? undefined : kind)}
        >
          {KINDS[kind].word}
        </Button>
      ))}
      {runs.all.length > 1 && current !== undefined ? (
        <span className="ml-auto">
          <Choice
            label="Which run"
            before="shown:"
            value={current.id}
            options={runs.all.map((run, at) => [run.id, nameOf(run, runs.all.length - at)] as const)}
            onChoose={runs.choose}
          />
        </span>
      ) : null}
    </div>
  );
}

/** What has to be allowed before it is begun. */
function Question({ runs }: Pick<RunsPaneProps, 'runs'>) {
  const { question } = runs;
  if (question === undefined) return null;
  return (
    <div role="alertdialog" aria-label="Before it is sent many times" className="mt-2 border border-redirect p-3">
      <p className="mb-2 font-semibold">{question.asked.sentence}</p>
      <span className="flex gap-2">
        <Button isMain onClick={() => runs.begin(question.order, { unsafe: true })}>
          Send it, and do not ask again for this draft
        </Button>
        <Button onClick={runs.dismiss}>Do not send</Button>
      </span>
    </div>
  );
}

const closeStep = (): void => goTo({ trial: undefined, run: undefined, hit: undefined, against: undefined });

const nameOf = ({ order }: Run, number: number): string => `${number} ${KINDS[order.kind].word.toLowerCase()}`;

/** What a trim knows, on the sheet: what is not needed struck through, and why the rest is. */
const withTrim =
  ({ result }: Run) =>
  (kept: KeptDraft): KeptDraft =>
    result.trim === undefined
      ? kept
      : {
          ...withSheet(kept, { ...kept.sheet, text: result.trim.text }),
          needed: result.trim.needed.map(({ key, reason }) => ({ key, reason })),
        };

/** While a trim goes on, the sheet's lines are struck as they are found unneeded; a sheet that somebody changes is left alone. */
function useStruck(runs: Runs, kept: KeptDraft, onChange: RunsPaneProps['onChange']): void {
  const put = useRef<{ readonly of: string; readonly text: string }>(undefined);
  const { current } = runs;
  const text = current?.result.trim?.text;
  // biome-ignore lint/correctness/useExhaustiveDependencies: each change of what is known is put once.
  useEffect(() => {
    if (current === undefined || current.order.kind !== 'trim') return;
    // The sheet as it was when the trim was begun here.
    if (put.current?.of !== current.id) {
      if (current.sends > 0) return;
      put.current = { of: current.id, text: kept.sheet.text };
    }
    if (text === undefined || kept.sheet.text !== put.current.text) return;
    put.current = { of: current.id, text };
    onChange(withTrim(current));
  }, [current?.id, text, current?.result.trim?.needed.length]);
}

/** Tells of a watch whose condition is met while this page is open. */
function useNotice({ current }: Runs, wanted: NoticeWanted): void {
  const [watched, setWatched] = useState<string>();
  useEffect(() => {
    if (current?.order.kind !== 'watch') return;
    if (current.status === 'running') setWatched(current.id);
    else if (watched === current.id) {
      setWatched(undefined);
      if (current.result.watch?.isMet === true) giveNotice(current.sentence, wanted);
    }
  }, [current, watched, wanted]);
}
