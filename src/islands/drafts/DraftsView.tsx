import { useStore } from '@nanostores/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import {
  draftFromExchange,
  EMPTY_DRAFT,
  freeName,
  guessSource,
  isToBeEncoded,
  readBack,
  splitQuery,
} from '#core/convert';
import { type KeptDraft, readSheet, renamed, type TakenFrom, tellTaken } from '#core/sheet';
import type { RunKind } from '#core/wire';
import { offsetOf } from '../frame/ZoneChooser';
import { RunsPane } from '../runs/RunsPane';
import { useRuns } from '../runs/use-runs';
import { $place, goTo } from '../state/address';
import { fetchDossier } from '../state/api';
import { useHome } from '../state/focus';
import { newId } from '../state/new-id';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { Loading, Nothing, Problem } from '../ui/Problem';
import type { ViewProps } from '../view-props';
import { DraftFiles } from './DraftFiles';
import { DraftOutput } from './DraftOutput';
import { fetchOrigin } from './draft-api';
import { firstSeries } from './first-series';
import { hopOf } from './hop';
import { SendWayChoice } from './SendWayChoice';
import { SequencePane } from './SequencePane';
import { SheetView, tellChanges } from './SheetView';
import { wordsOf } from './sheet-words';
import { TrialsPane } from './TrialsPane';
import { newDraft, type ThereDrafts, useDrafts } from './use-drafts';
import { useSequence } from './use-sequence';
import { useTrials } from './use-trials';
import { VariablesList } from './VariablesList';

type DraftsViewProps = Pick<ViewProps, 'card' | 'rows'>;

/** Requests to be edited and sent: the sheet on the left, what came of it and the code on the right. */
export default function DraftsView({ card, rows }: DraftsViewProps) {
  const drafts = useDrafts(card.id);
  if (drafts.state === 'loading') return <Loading what="the drafts" />;
  if (drafts.state === 'failed') {
    return (
      <Problem problem={drafts.problem}>
        <Button onClick={drafts.again}>Try again</Button>
      </Problem>
    );
  }
  return <There card={card} rows={rows} drafts={drafts} />;
}

function There({ card, rows, drafts }: DraftsViewProps & { readonly drafts: ThereDrafts }) {
  const { draft: asked } = useStore($place);
  const home = useHome<HTMLElement>();
  const [isPasting, setIsPasting] = useState(false);
  const current = drafts.all.find(({ id }) => id === asked) ?? drafts.all.at(-1);
  return (
    <section {...home} aria-label="Drafts" tabIndex={-1} className="relative flex min-h-0 flex-1 flex-col outline-none">
      {current === undefined ? (
        <Beginnings card={card} onPaste={() => setIsPasting(!isPasting)} drafts={drafts} />
      ) : (
        <OneDraft
          key={current.id}
          card={card}
          rows={rows}
          drafts={drafts}
          kept={current}
          onPaste={() => setIsPasting(!isPasting)}
          paste={isPasting ? <PasteBox drafts={drafts} onDone={() => setIsPasting(false)} /> : null}
        />
      )}
      {current === undefined && isPasting ? <PasteBox drafts={drafts} onDone={() => setIsPasting(false)} /> : null}
      {current === undefined && !isPasting ? (
        <Nothing
          sentence="No drafts of this capture yet."
          advice="Press d on an exchange to make one of its request, paste a command, or begin with an empty one."
        >
          <Button onClick={() => goTo({ view: 'waterfall' })}>To the waterfall</Button>
        </Nothing>
      ) : null}
    </section>
  );
}

interface BeginningsProps extends Pick<DraftsViewProps, 'card'> {
  readonly drafts: ThereDrafts;
  readonly onPaste: () => void;
}

function Beginnings({ card, drafts, onPaste }: BeginningsProps) {
  return (
    <div className="flex flex-wrap items-center justify-end gap-2 border-line border-b bg-sheet px-4 py-2 text-[13px]">
      <Button onClick={onPaste}>From pasted text</Button>
      <Button onClick={() => drafts.add(newDraft('empty draft', { ...EMPTY_DRAFT, url: 'https://' }, undefined))}>
        Empty draft
      </Button>
      <DraftFiles captureId={card.id} name={card.name} drafts={drafts} current={undefined} />
    </div>
  );
}

interface OneDraftProps extends DraftsViewProps {
  readonly drafts: ThereDrafts;
  readonly kept: KeptDraft;
  readonly onPaste: () => void;
  readonly paste: React.ReactNode;
}

/** Long because it is the markup of one draft with the buttons above it. */
function OneDraft({ card, rows, drafts, kept, onPaste, paste }: OneDraftProps) {
  const { zone } = useStore($place);
  const captured = useCaptured(card.id, kept);
  const trials = useTrials(card.id, kept, drafts);
  const sequence = useSequence(card.id, drafts, trials.add);
  const runs = useRuns(card.id, kept, drafts);
  const lineName = useRef('');
  const [openRun, setOpenRun] = useState<RunKind>();
  const zoneMinutes = offsetOf(zone, card.utcOffsetMinutes, card.overview.recordedAt ?? 0);
  const [isOrdered, setIsOrdered] = useState(false);
  const words = useMemo(() => wordsOf(card.id, rows), [card.id, rows]);
  const onChange = (change: (kept: KeptDraft) => KeptDraft): void => drafts.change(kept.id, change);
  const changes = useMemo(
    () => (captured === undefined ? '' : tellChanges(captured.sheet, kept.sheet)),
    [captured, kept.sheet],
  );
  const send = (): void => {
    const { sheet, draft } = drafts.get(kept.id) ?? kept;
    const barring = readSheet(sheet, draft).problems.find(({ bars }) => bars);
    if (barring === undefined) trials.send();
    else tell(`Nothing was sent. ${barring.sentence}`, { detail: 'The place is underlined on the sheet.' });
  };
  const lift = (text: string, near: string, isSecret: boolean): string => {
    // What is a variable already is that one, here too; but for one that is encoded when it comes, which this may not be.
    const same = drafts.variables.find(
      ({ name, value, takenFrom }) =>
        value === text &&
        text.length >= LEAST_SHARED &&
        (takenFrom?.as !== 'encoded' || text.includes('%') || isToBeEncoded(kept.draft, { name, value })),
    );
    if (same !== undefined) {
      // Where it came from could not be asked the first time, as where the page was left too soon.
      if (same.takenFrom === undefined) void tieToOrigin(card.id, kept, drafts, same);
      return same.name;
    }
    const name = freeName({ ...kept.draft, variables: drafts.variables }, near);
    drafts.changeVariables((all) => [...all, { name, value: text, isSecret }]);
    void tieToOrigin(card.id, kept, drafts, { name, value: text });
    return name;
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 border-line border-b bg-sheet px-4 py-2 text-[13px]">
        <Chooser all={drafts.all} current={kept} drafts={drafts} />
        <span className="text-soft">{changes}</span>
        <span className="ml-auto flex flex-wrap gap-2">
          <Button onClick={() => drafts.add({ ...kept, id: newId(), name: `${kept.name} (copy)`.slice(0, 200) })}>
            Duplicate
          </Button>
          <Button onClick={() => drafts.drop(kept)}>Delete</Button>
          <Button onClick={onPaste}>From pasted text</Button>
          <Button onClick={() => drafts.add(newDraft('empty draft', { ...EMPTY_DRAFT, url: 'https://' }, undefined))}>
            Empty draft
          </Button>
          <DraftFiles captureId={card.id} name={card.name} drafts={drafts} current={kept} />
          {drafts.all.length > 1 ? (
            <Button
              action={{ id: 'draft-order', label: 'Send several drafts in order', keys: ['Shift+O'] }}
              onClick={() => setIsOrdered(!isOrdered)}
            >
              In order
            </Button>
          ) : null}
          <Button
            action={{ id: 'draft-send', label: 'Send the draft', keys: ['Ctrl+Enter'] }}
            isMain
            isOff={trials.sendingSince !== undefined}
            onClick={send}
          >
            Send
          </Button>
        </span>
      </div>
      {paste}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] max-lg:auto-rows-max max-lg:grid-cols-1 max-lg:overflow-y-auto">
        <div className="flex min-h-0 min-w-0 flex-col">
          <SheetView
            kept={kept}
            variables={drafts.variables}
            captured={captured}
            words={words}
            onChange={onChange}
            onSend={send}
            onName={(name) => {
              lineName.current = name;
            }}
            onLift={lift}
          />
          <div className="shrink-0 px-4 pb-3">
            <VariablesList
              kept={kept}
              drafts={drafts}
              onRenew={(source) => {
                setIsOrdered(true);
                sequence.run([source]);
              }}
            />
            {kept.draft.notes.map((note) => (
              <p key={note} className="text-[13px] text-soft">
                {note}
              </p>
            ))}
          </div>
        </div>
        {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
        <div
          tabIndex={0}
          className="relative min-h-0 min-w-0 overflow-y-auto border-line border-l p-4 outline-none max-lg:overflow-visible"
        >
          {isOrdered ? <SequencePane captureId={card.id} all={drafts.all} sequence={sequence} /> : null}
          <TrialsPane
            kept={kept}
            captureId={card.id}
            trials={trials}
            captured={rows.find(({ index }) => index === kept.exchange)}
            zoneMinutes={zoneMinutes}
            onChange={onChange}
            onHop={(hop) => drafts.add(hopOf(kept, hop))}
          />
          <RunsPane
            captureId={card.id}
            kept={kept}
            runs={runs}
            zoneMinutes={zoneMinutes}
            open={openRun}
            onOpen={(kind) => {
              if (kind === 'series') onChange((one) => ({ ...one, loop: firstSeries(one, lineName.current) }));
              setOpenRun(kind);
            }}
            onChange={onChange}
          />
          <SendWayChoice way={kept.way} onWay={(way) => onChange((one) => ({ ...one, way }))} />
          <DraftOutput captureId={card.id} kept={kept} hasLoop={openRun !== 'series'} onChange={onChange} />
        </div>
      </div>
    </>
  );
}

/** Shorter values are the same by chance. */
const LEAST_SHARED = 8;

/** Has a variable taken from where the capture shows that its value came from: the draft of that request is begun with it. */
async function tieToOrigin(
  captureId: string,
  { exchange, draft }: KeptDraft,
  drafts: ThereDrafts,
  variable: { readonly name: string; readonly value: string },
): Promise<void> {
  const { name, value } = variable;
  if (exchange === undefined) return;
  const found = await fetchOrigin(captureId, exchange, value);
  if (!found.ok || found.value === null) return;
  const { exchange: from, ...place } = found.value;
  const source = await draftOf(captureId, from, drafts);
  if (source === undefined) return;
  const isEncoded = /^(?:json|text|header)$/.test(place.part) && isToBeEncoded(draft, variable);
  const takenFrom: TakenFrom = { draft: source.id, ...(isEncoded ? { as: 'encoded' } : {}), ...place };
  const same = drafts.variables.find((one) => JSON.stringify(one.takenFrom) === JSON.stringify(takenFrom));
  if (same !== undefined) {
    drafts.changeVariables(
      (all) => all.filter((one) => one.name !== name),
      (text) => renamed(text, name, same.name),
    );
    return;
  }
  drafts.changeVariables((all) => all.map((one) => (one.name === name ? { ...one, takenFrom } : one)));
  tell(`"${name}" is taken from the response of #${from}, at ${tellTaken(takenFrom)}.`, {
    detail: `Sending "${source.name}" gives it a new value.`,
  });
}

/** The draft of an exchange: the one that there is, or a new one. */
async function draftOf(captureId: string, exchange: number, drafts: ThereDrafts): Promise<KeptDraft | undefined> {
  const there = drafts.all.find((kept) => kept.exchange === exchange);
  if (there !== undefined) return there;
  const answer = await fetchDossier(captureId, exchange);
  if (!answer.ok) return undefined;
  const draft = draftFromExchange(answer.value.exchange, 'faithful');
  const path = splitQuery(draft.url).base;
  const made = newDraft(`${draft.method} ${path.split('/').at(-1) ?? ''} (#${exchange})`, draft, exchange);
  drafts.addBehind(made);
  return made;
}

/** The captured request as a draft of its own, to hold the sheet against; undefined where there is none, or until it is there. */
function useCaptured(captureId: string, { exchange }: KeptDraft): KeptDraft | undefined {
  const [captured, setCaptured] = useState<KeptDraft>();
  useEffect(() => {
    setCaptured(undefined);
    if (exchange === undefined) return;
    let isCurrent = true;
    fetchDossier(captureId, exchange).then((answer) => {
      if (isCurrent && answer.ok)
        setCaptured(newDraft('as captured', draftFromExchange(answer.value.exchange, 'faithful'), exchange));
    });
    return () => {
      isCurrent = false;
    };
  }, [captureId, exchange]);
  return captured;
}

interface ChooserProps {
  readonly all: readonly KeptDraft[];
  readonly current: KeptDraft;
  readonly drafts: ThereDrafts;
}

function Chooser({ all, current, drafts }: ChooserProps) {
  return (
    <>
      <select
        aria-label="Draft"
        value={current.id}
        onChange={({ target }) => goTo({ draft: target.value, trial: undefined })}
        className="max-w-48 bg-sheet font-bold"
      >
        {all.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      <label className="flex items-center gap-1 text-soft">
        called
        <input
          aria-label="Name of the draft"
          value={current.name}
          onChange={({ target }) => {
            const name = target.value;
            if (name.trim() !== '') drafts.change(current.id, (kept) => ({ ...kept, name }));
          }}
          className="w-40 border border-line bg-paper px-1.5 text-ink"
        />
      </label>
      {current.exchange === undefined ? null : (
        <button
          type="button"
          className="text-soft underline hover:text-ink"
          onClick={() => goTo({ view: 'waterfall', exchange: current.exchange, isOpen: true })}
        >
          from #{current.exchange}
        </button>
      )}
    </>
  );
}

function PasteBox({ drafts, onDone }: { readonly drafts: ThereDrafts; readonly onDone: () => void }) {
  const [text, setText] = useState('');
  const read = (): void => {
    const source = guessSource(text);
    const { drafts: found, notes } = source === undefined ? { drafts: [], notes: [] } : readBack(text, source);
    if (found.length === 0) {
      tell('No request found in this text.', {
        detail: [
          ...notes,
          'It reads commands (curl in any shell, wget, http, Invoke-WebRequest), HTTP messages, fetch, XMLHttpRequest, curl config files and URLs.',
        ].join(' '),
      });
      return;
    }
    for (const draft of found)
      drafts.add(newDraft(`${draft.method} ${draft.url.replace(/^[a-z]+:\/\//i, '').slice(0, 60)}`, draft, undefined));
    onDone();
    if (notes.length > 0) tell(`${found.length} read.`, { detail: notes.join(' ') });
  };
  return (
    <div className="border-line border-b bg-sheet p-4">
      <textarea
        aria-label="Text to read requests from"
        placeholder="curl 'https://…' -H '…', several at once if you like; or wget, http, Invoke-WebRequest, an HTTP message, fetch(…), a URL"
        value={text}
        onChange={({ target }) => setText(target.value)}
        rows={7}
        spellCheck={false}
        className="w-full border border-line bg-paper p-2 font-mono text-[12px]"
      />
      <Button isMain onClick={read}>
        Read it
      </Button>
    </div>
  );
}
