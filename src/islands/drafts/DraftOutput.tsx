import { useStore } from '@nanostores/react';
import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from 'react';
import {
  DEFAULT_OPTIONS,
  type Draft,
  findTarget,
  type Rendering,
  type RenderOptions,
  readLoop,
  renderLoop,
  SCRIPT_TARGETS,
  TARGETS,
  tellScriptTargets,
} from '#core/convert';
import type { KeptDraft } from '#core/sheet';
import { fileName, saveFile } from '../export/save-file';
import { tell } from '../state/notices';
import { Setting } from '../state/setting';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { copyText } from '../ui/copy';
import { useControl } from '../ui/use-actions';
import { CodeEdit } from './CodeEdit';
import { LoopChoice } from './LoopChoice';

const TryCode = lazy(() => import('../rehearsal/TryCode').then((part) => ({ default: part.TryCode })));

interface Favourites {
  readonly favourites: readonly string[];
}

/** The targets that come first where drafts are written. */
const targets = new Setting<Favourites>(
  'targets',
  { favourites: ['curl-sh', 'js-fetch', 'python-requests'] },
  'Favourites could not be saved; they last until you close this page.',
);
const MOST_FAVOURITES = 9;

/** Loops are written for those targets alone that have a language to loop in. */
const NO_LOOP: Rendering = {
  text: '',
  warnings: [`Loops are written for ${tellScriptTargets()}: choose one of these.`],
};

interface DraftOutputProps {
  readonly captureId: string;
  readonly kept: KeptDraft;
  /** The loop is chosen here; not where it is above, as a series. */
  readonly hasLoop: boolean;
  readonly onChange: (change: (kept: KeptDraft) => KeptDraft) => void;
}

/**
 * The command or code that sends a draft, always current, with what it cannot do.
 * Long because it is one column from the choice of a target to its code, in the order in which it is read.
 */
export function DraftOutput({ captureId, kept, hasLoop, onChange }: DraftOutputProps) {
  const { favourites } = useStore(targets.$value);
  const [chosen, setChosen] = useState<string>();
  const id = chosen ?? favourites[0] ?? 'curl-sh';
  const loop = useMemo(() => {
    const read = kept.loop === undefined ? undefined : readLoop(kept.loop);
    return typeof read === 'object' ? read : undefined;
  }, [kept.loop]);
  const [options, setOptions] = useState<RenderOptions>(DEFAULT_OPTIONS);
  useEffect(() => {
    void targets.load();
  }, []);
  const target = findTarget(id) ?? TARGETS[0];
  const looping = SCRIPT_TARGETS.find((one) => one === id);
  const render = useCallback(
    (draft: Draft): Rendering | undefined => {
      if (loop === undefined) return target?.render(draft, options);
      return looping === undefined ? NO_LOOP : renderLoop(draft, loop, looping, options);
    },
    [target, options, loop, looping],
  );
  const rendering = useMemo(() => render(kept.draft), [render, kept.draft]);
  if (target === undefined || rendering === undefined) return null;
  // The draft's own notes stand beside it.
  const warnings = [...new Set(rendering.warnings)].filter((warning) => !kept.draft.notes.includes(warning));
  const isFavourite = favourites.includes(id);
  const turnFavourite = (): void => {
    setChosen(id);
    targets.change(({ favourites: all }) => {
      const others = all.filter((one) => one !== id);
      return { favourites: isFavourite ? others : [...others, id].slice(-MOST_FAVOURITES) };
    });
  };
  const copy = async (): Promise<void> => {
    const isCopied = await copyText(rendering.text);
    tell(isCopied ? `Copied for ${target.label}.` : 'The browser does not allow this page to copy.');
  };
  return (
    <div className="mt-4 min-w-0 text-[13px]">
      <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1">
        <Choice
          action={{ id: 'draft-target', label: 'Choose the output format of the draft', keys: ['t'] }}
          label="Output format"
          before="as"
          value={id}
          options={TARGETS.map((one) => [one.id, one.label] as const)}
          onChoose={setChosen}
        />
        <button type="button" onClick={turnFavourite} className="text-soft underline hover:text-ink">
          {isFavourite ? 'remove from favourites' : 'add to favourites'}
        </button>
        <span className="ml-auto flex gap-2">
          <Button action={{ id: 'draft-copy', label: 'Copy the command or code', keys: ['y'] }} isMain onClick={copy}>
            Copy
          </Button>
          <Button
            onClick={() =>
              saveFile(
                fileName(kept.name, target.extension),
                new Blob([(rendering.bytes as Uint8Array<ArrayBuffer> | undefined) ?? rendering.text], {
                  type: 'text/plain',
                }),
              )
            }
          >
            Save
          </Button>
        </span>
      </div>
      <ul aria-label="Favourite targets" className="mb-2 flex flex-wrap gap-2">
        {favourites.map((one, at) => (
          <li key={one}>
            <Favourite id={one} number={at + 1} isChosen={one === id} onChoose={() => setChosen(one)} />
          </li>
        ))}
      </ul>
      {hasLoop ? (
        <LoopChoice fields={kept.loop} onFields={(next) => onChange((one) => ({ ...one, loop: next }))} />
      ) : null}
      <OutputOptions options={options} onOptions={setOptions} />
      <Suspense fallback={null}>
        <TryCode captureId={captureId} kept={kept} render={render} />
      </Suspense>
      {rendering.bytes === undefined ? null : (
        <p className="mt-2 text-soft">
          Bytes that are not text are shown as U+FFFD. Save it: the file has them as they are.
        </p>
      )}
      {warnings.length === 0 ? null : (
        <ul aria-label="Warnings" className="my-2 max-h-40 shrink-0 overflow-y-auto border-redirect border-l-3 pl-3">
          {warnings.map((warning) => (
            <li key={warning}>{warning}</li>
          ))}
        </ul>
      )}
      <div className="mt-2" data-output={id}>
        <CodeEdit
          key={target.language}
          text={rendering.text}
          language={target.language}
          label="Command or code"
          isTall
        />
      </div>
    </div>
  );
}

interface FavouriteProps {
  readonly id: string;
  readonly number: number;
  readonly isChosen: boolean;
  readonly onChoose: () => void;
}

/** A target that its number chooses. */
function Favourite({ id, number, isChosen, onChoose }: FavouriteProps) {
  const label = findTarget(id)?.label ?? id;
  const button = useControl<HTMLButtonElement>(
    { id: `favourite-${number}`, label: `Convert the draft to ${label}`, keys: [String(number)] },
    'click',
  );
  return (
    <button
      ref={button}
      type="button"
      aria-current={isChosen}
      onClick={onChoose}
      className={`border px-1.5 ${isChosen ? 'border-ink font-bold' : 'border-line text-soft hover:text-ink'}`}
    >
      {label} <kbd className="font-mono text-[11px] opacity-75">{number}</kbd>
    </button>
  );
}

interface OutputOptionsProps {
  readonly options: RenderOptions;
  readonly onOptions: (options: RenderOptions) => void;
}

/** Long because it is a list of options, each beside the next. */
function OutputOptions({ options, onOptions }: OutputOptionsProps) {
  const set = (change: Partial<RenderOptions>): void => onOptions({ ...options, ...change });
  const check = (label: string, isOn: boolean, change: Partial<RenderOptions>) => (
    <label className="flex items-center gap-1">
      <input type="checkbox" checked={isOn} onChange={() => set(change)} />
      {label}
    </label>
  );
  return (
    <details>
      <summary className="cursor-pointer text-soft">Code options</summary>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 py-1">
        {check('read credentials from environment variables', options.secretsFromEnv, {
          secretsFromEnv: !options.secretsFromEnv,
        })}
        {check('left-out headers as comments', options.commentsLeftOut, { commentsLeftOut: !options.commentsLeftOut })}
        {check('the client’s own idioms', options.idioms, { idioms: !options.idioms })}
        {check('as a function', options.asFunction, { asFunction: !options.asFunction })}
        {check('skip TLS certificate check (insecure)', options.ignoresCertificate, {
          ignoresCertificate: !options.ignoresCertificate,
        })}
        <Choice
          label="Headers in the code"
          before="headers as"
          value={options.headers}
          options={[
            ['map', 'one map'],
            ['calls', 'one call each'],
          ]}
          onChoose={(headers) => set({ headers })}
        />
        <Choice
          label="Redirects"
          before="redirects"
          value={options.redirects ?? 'client'}
          options={[
            ['client', 'client default'],
            ['follow', 'follow'],
            ['stop', 'don’t follow'],
          ]}
          onChoose={(redirects) => set({ redirects: redirects === 'client' ? undefined : redirects })}
        />
        <Choice
          label="Output"
          before="prints"
          value={options.prints}
          options={[
            ['body', 'the body'],
            ['status', 'the status'],
            ['file', 'to a file'],
          ]}
          onChoose={(prints) => set({ prints })}
        />
        <label className="flex items-center gap-1 text-soft">
          waits
          <input
            aria-label="Time limit in seconds"
            inputMode="decimal"
            value={options.timeLimitS ?? ''}
            onChange={({ target }) => {
              const seconds = Number(target.value);
              set({ timeLimitS: target.value !== '' && seconds > 0 ? seconds : undefined });
            }}
            className="w-14 border border-line bg-paper px-1 text-ink"
          />
          s
        </label>
        <label className="flex items-center gap-1 text-soft">
          proxy
          <input
            aria-label="URL of a proxy"
            value={options.proxy ?? ''}
            placeholder="http://proxy.example:8080"
            onChange={({ target }) => set({ proxy: target.value.trim() === '' ? undefined : target.value.trim() })}
            className="w-44 border border-line bg-paper px-1 text-ink"
          />
        </label>
      </div>
    </details>
  );
}
