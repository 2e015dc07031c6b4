import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { type CookieChanges, type KeptDraft, withCookies, withSheet } from '#core/sheet';
import type { Measure, Trial } from '#core/wire';
import { formatBytes, formatMs } from '#core/wording';
import OpenDossier from '../capture/OpenDossier';
import { fileName, saveFile } from '../export/save-file';
import { $place, goTo } from '../state/address';
import { exportHar } from '../state/api';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { Problem } from '../ui/Problem';
import { fetchSentSheet } from './draft-api';
import { HeldAgainst } from './HeldAgainst';
import type { Hop } from './hop';
import { TrialStrips } from './TrialStrips';
import type { Trials } from './use-trials';

interface TrialsPaneProps {
  readonly kept: KeptDraft;
  readonly captureId: string;
  readonly trials: Trials;
  /** The captured exchange; absent where the draft was made from none. */
  readonly captured: ExchangeRow | undefined;
  readonly zoneMinutes: number;
  readonly onChange: (change: (kept: KeptDraft) => KeptDraft) => void;
  /** Begins a draft of where a redirect leads. */
  /** A redirect is to be followed, by a draft of its own. */
  readonly onHop: (hop: Hop) => void;
}

/** What came of sending the draft: the verdict, the trials as strips, and the response held against the measure. */
export function TrialsPane({ kept, captureId, trials, captured, zoneMinutes, onChange, onHop }: TrialsPaneProps) {
  const place = useStore($place);
  const open = place.run === undefined ? place.trial : undefined;
  const [chosen, setChosen] = useState<number>();
  const [measure, setMeasure] = useState<Measure>(CAPTURED);
  const { all } = trials;
  const current = all.find(({ number }) => number === chosen) ?? all[0];
  const newest = all[0]?.number;
  // The newest is what is looked at, until another one is chosen.
  useEffect(() => {
    if (newest !== undefined) setChosen(undefined);
  }, [newest]);
  const against = measure.type === 'trial' && all.every(({ number }) => number !== measure.number) ? CAPTURED : measure;
  return (
    <section aria-label="Trials" className="min-w-0 text-[13px]">
      <Asked trials={trials} current={current} captured={captured} onHop={onHop} onChange={onChange} />
      {trials.problem === undefined ? null : (
        <Problem problem={trials.problem}>
          <Button onClick={trials.again}>Try again</Button>
        </Problem>
      )}
      {all.length === 0 ? null : (
        <TrialStrips
          trials={all}
          captured={captured}
          current={current?.number}
          measure={against}
          onChoose={setChosen}
          onMeasure={setMeasure}
        />
      )}
      {current === undefined ? null : (
        <>
          <TrialTools trial={current} kept={kept} captureId={captureId} trials={trials} onChange={onChange} />
          <OtherMeasure onMeasure={setMeasure} />
          {kept.exchange === undefined && against.type === 'captured' ? null : (
            <HeldAgainst captureId={captureId} kept={kept} number={current.number} against={against} />
          )}
        </>
      )}
      {open !== undefined && all.some(({ number }) => number === open) ? (
        <OpenDossier
          captureId={kept.id}
          index={open}
          rows={all.map(({ row }) => row)}
          zoneMinutes={zoneMinutes}
          name={`trial ${open}`}
          onClose={closeTrial}
          onDraft={() => void takeBack(captureId, kept, open, onChange)}
        />
      ) : null}
    </section>
  );
}

const CAPTURED: Measure = { type: 'captured' };

const closeTrial = (): void => goTo({ trial: undefined, run: undefined, hit: undefined, against: undefined });

/** Any other exchange of the capture, or a response from elsewhere, as the measure. */
function OtherMeasure({ onMeasure }: { readonly onMeasure: (measure: Measure) => void }) {
  const [number, setNumber] = useState('');
  const [text, setText] = useState('');
  const field = 'border border-line bg-paper px-1.5 font-mono text-[12px] text-ink';
  return (
    <details className="mt-2 text-[12px] text-soft">
      <summary>another measure</summary>
      <form
        className="mt-1 flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim() !== '') onMeasure({ type: 'pasted', text });
          else if (/^\d{1,9}$/.test(number.trim())) onMeasure({ type: 'exchange', number: Number(number) });
          else tell('Write the number of an exchange, or paste a response.');
        }}
      >
        <label>
          exchange #{' '}
          <input
            aria-label="Number of an exchange as the measure"
            value={number}
            onChange={({ target }) => setNumber(target.value)}
            className={`w-16 ${field}`}
          />
        </label>
        <label className="flex min-w-48 flex-1 items-center gap-1">
          or pasted
          <textarea
            aria-label="A pasted response as the measure"
            placeholder="HTTP/1.1 200 OK … or a body alone"
            rows={2}
            value={text}
            onChange={({ target }) => setText(target.value)}
            className={`min-w-0 flex-1 ${field}`}
          />
        </label>
        <Button isSubmit>Hold against it</Button>
      </form>
    </details>
  );
}

interface AskedProps extends Pick<TrialsPaneProps, 'onHop' | 'onChange'> {
  readonly trials: Trials;
  readonly current: Trial | undefined;
  readonly captured: ExchangeRow | undefined;
}

/** The verdict of the trial that is looked at, or what is to be said before there is one. */
function Asked({ trials, current, captured, onHop, onChange }: AskedProps) {
  const { question, sendingSince } = trials;
  if (question !== undefined) {
    return (
      <div role="alertdialog" aria-label="Before it is sent" className="mb-3 border border-redirect p-3">
        <p className="mb-2 font-semibold">{question.sentence}</p>
        <span className="flex gap-2">
          <Button
            isMain
            onClick={() => trials.send(question.about === 'unsafe' ? { unsafe: true } : { private: true })}
          >
            Send it, and do not ask again for this draft
          </Button>
          <Button onClick={trials.dismiss}>Do not send</Button>
        </span>
      </div>
    );
  }
  if (sendingSince !== undefined)
    return <Sending since={sendingSince} bytes={trials.receivedBytes} onCancel={trials.cancel} />;
  if (current === undefined) return <p className="mb-3 text-soft">{beforeFirst(trials.state, captured)}</p>;
  const took = current.row.timeMs === undefined ? '' : `; ${formatMs(current.row.timeMs)}`;
  const before = captured?.timeMs === undefined ? '' : `, the captured one took ${formatMs(captured.timeMs)}`;
  return (
    <div role="status" className="mb-3">
      <p className="font-bold text-base leading-5">{current.sentence}</p>
      <p className="text-[12px] text-soft">
        Trial {current.number}
        {current.address === undefined ? '' : `, to ${current.row.host} at ${current.address}`}
        {took}
        {took === '' ? '' : before}.
      </p>
      {current.remarks.map((remark) => (
        <p key={remark} className="text-[12px] text-soft">
          {remark}
        </p>
      ))}
      <Cookies set={current.setsCookies ?? []} ended={current.endsCookies ?? []} onChange={onChange} />
      {current.leadsTo === undefined || current.row.status === undefined ? null : (
        <HopOffer status={current.row.status} url={current.leadsTo} onHop={onHop} />
      )}
      {current.row.failure?.type === 'no-response' && /^certificate/.test(current.row.failure.reason) ? (
        <Button onClick={() => trials.send({ certificateOf: current.row.host })}>
          Send again without checking this host’s certificate
        </Button>
      ) : null}
    </div>
  );
}

/** What is said before there is a trial. */
function beforeFirst(state: Trials['state'], captured: ExchangeRow | undefined): string {
  if (state === 'loading') return 'Loading the trials';
  if (state === 'failed') return '';
  const then = captured === undefined ? 'shown here' : 'held against the captured response here';
  return `Not sent yet. What comes back is ${then}.`;
}

/** Cookies are kept by nobody by themselves: they go onto the sheet, or from it, with a press. */
function Cookies({ set, ended, onChange }: Pick<TrialsPaneProps, 'onChange'> & CookieChanges) {
  if (set.length + ended.length === 0) return null;
  const count = (all: readonly unknown[]): string => (all.length === 1 ? 'cookie' : 'cookies');
  const them = set.length + ended.length === 1 ? 'it' : 'them';
  const said = [
    ...(set.length === 0 ? [] : [`sets the ${count(set)} ${set.map(({ name }) => name).join(', ')}`]),
    ...(ended.length === 0 ? [] : [`ends the ${count(ended)} ${ended.join(', ')}`]),
  ];
  return (
    <p className="text-[12px]">
      It {said.join(' and ')}.{' '}
      <button
        type="button"
        className="underline hover:text-ink"
        onClick={() => onChange((one) => withSheet(one, withCookies(one.sheet, { set, ended })))}
      >
        {ended.length === 0
          ? `Put ${them} on the sheet`
          : set.length === 0
            ? `Take ${them} off the sheet`
            : 'Do the same on the sheet'}
      </button>
    </p>
  );
}

/** A redirect is a response like another one: where it leads is asked for by a draft of its own. */
function HopOffer({ status, url, onHop }: Pick<TrialsPaneProps, 'onHop'> & Hop) {
  return (
    <p className="text-[12px]">
      It leads to <span className="break-all font-mono">{url}</span>.{' '}
      <button type="button" className="underline hover:text-ink" onClick={() => onHop({ status, url })}>
        Make a draft of it
      </button>
    </p>
  );
}

interface SendingProps {
  readonly since: number;
  readonly bytes: number;
  readonly onCancel: () => void;
}

/** How long it has been under way, and how much has come. */
function Sending({ since, bytes, onCancel }: SendingProps) {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setSeconds(Math.floor((performance.now() - since) / 1000)), 250);
    return () => clearInterval(timer);
  }, [since]);
  return (
    <div className="mb-3 flex items-center gap-3">
      <p role="status">
        Sending{seconds === 0 ? '' : `, ${seconds} s`}
        {bytes === 0 ? '' : `, ${formatBytes(bytes)} of the response so far`}
      </p>
      <Button onClick={onCancel} action={{ id: 'draft-cancel', label: 'Cancel the sending', keys: ['q'] }}>
        Cancel
      </Button>
    </div>
  );
}

interface TrialToolsProps {
  readonly trial: Trial;
  readonly kept: KeptDraft;
  readonly captureId: string;
  readonly trials: Trials;
  readonly onChange: TrialsPaneProps['onChange'];
}

/** What can be done with the trial that is looked at, and with all of them. */
function TrialTools({ trial, kept, captureId, trials, onChange }: TrialToolsProps) {
  const { number, note } = trial;
  const save = async (): Promise<void> => {
    const answer = await exportHar(
      kept.id,
      trials.all.map((one) => one.number),
    );
    if (answer.ok) saveFile(fileName(`trials of ${kept.name}`, 'har'), answer.value);
    else tell(answer.problem.sentence, { detail: answer.problem.advice });
  };
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2">
      <Button
        action={{ id: 'trial-open', label: 'Open the trial in the dossier', keys: ['i'] }}
        onClick={() => goTo({ trial: number, run: undefined })}
      >
        Open
      </Button>
      <Button onClick={() => void takeBack(captureId, kept, number, onChange)}>Back onto the sheet</Button>
      <Button onClick={() => trials.drop(number)}>Delete</Button>
      <Button onClick={() => void save()}>Save as HAR</Button>
      <Button onClick={() => location.assign(`/c/${kept.id}/waterfall`)}>Open as a capture</Button>
      <input
        key={`${number} ${note}`}
        aria-label={`Note on trial ${number}`}
        placeholder="note"
        defaultValue={note}
        onBlur={({ target }) => {
          if (target.value.trim() !== note) trials.note(number, target.value.trim());
        }}
        onKeyDown={({ key, currentTarget }) => {
          if (key === 'Enter') currentTarget.blur();
        }}
        className="min-w-24 flex-1 border border-line bg-paper px-1.5 py-0.5"
      />
    </div>
  );
}

/** Puts what was sent in a trial back onto the sheet; the editor can undo it. */
async function takeBack(
  captureId: string,
  kept: KeptDraft,
  number: number,
  onChange: TrialsPaneProps['onChange'],
): Promise<void> {
  const answer = await fetchSentSheet(captureId, kept.id, number);
  if (!answer.ok) {
    tell(answer.problem.sentence, { detail: answer.problem.advice });
    return;
  }
  const { text, layout, attachments } = answer.value;
  const read = attachments.map(({ key, base64 }) => ({
    key,
    bytes: Uint8Array.from(atob(base64), (character) => character.charCodeAt(0)),
  }));
  closeTrial();
  onChange((one) => withSheet(one, { text, layout, attachments: read }));
  tell(`The sheet is as it was sent in trial ${number}.`);
}
