import { useEffect, useMemo, useRef, useState } from 'react';
import { PRESETS, readPiece } from '#core/convert';
import {
  countLeftOut,
  differences,
  type KeptDraft,
  LAYOUTS,
  relayout,
  type SharedVariable,
  type Sheet,
  withSheet,
} from '#core/sheet';
import { partsOf, withoutParts } from '#core/trim';
import { formatPlural } from '#core/wording';
import { tell } from '../state/notices';
import { Choice } from '../ui/Choice';
import { useControl } from '../ui/use-actions';
import { AttachFile } from './AttachFile';
import type { SheetWords } from './sheet-completion';
import type { ReadContext, SheetContext } from './sheet-context';
import type { SheetEditor } from './sheet-editor';
import { readHistory, writeHistory } from './sheet-history';

interface SheetViewProps {
  readonly kept: KeptDraft;
  readonly variables: readonly SharedVariable[];
  /** The draft of the captured request; absent where there is none, or it is on its way. */
  readonly captured: KeptDraft | undefined;
  readonly words: SheetWords;
  readonly onChange: (change: (kept: KeptDraft) => KeptDraft) => void;
  readonly onSend: () => void;
  /** Hears the name of what the line under the cursor says. */
  readonly onName: (name: string) => void;
  /** A text becomes a variable; what is given back is its name. */
  readonly onLift: (text: string, near: string, isSecret: boolean) => string;
}

/** The line under the cursor, as it is spoken and written below the sheet. */
interface Here {
  readonly context: ReadContext;
  readonly at: number;
}

/**
 * The request as one text on ruled lines.
 * Long because the editor, what is said of its lines, and the commands on them are one view.
 */
export function SheetView({ kept, variables, captured, words, onChange, onSend, onName, onLift }: SheetViewProps) {
  const host = useRef<HTMLDivElement>(null);
  const editor = useRef<SheetEditor>(undefined);
  const [state, setState] = useState<'loading' | 'there' | 'failed'>('loading');
  const [here, setHere] = useState<Here>();
  const before = useRef(kept.draft);
  const context = useMemo(
    (): SheetContext => ({
      layout: kept.sheet.layout,
      attachments: kept.sheet.attachments,
      variables,
      before: captured?.draft ?? before.current,
      captured: captured?.sheet,
      needed: kept.needed ?? NONE_NEEDED,
    }),
    [kept.sheet.layout, kept.sheet.attachments, kept.needed, variables, captured],
  );
  /** Sheets that the editor itself has written: they may come back when it is further already. */
  const own = useRef(new WeakSet<Sheet>());
  const setText = (text: string): void =>
    onChange((one) => {
      if (one.sheet.text === text) return one;
      const sheet = { ...one.sheet, text };
      own.current.add(sheet);
      return withSheet(one, sheet);
    });
  const lift = (): void => {
    const text = editor.current?.selected() ?? '';
    // Not `here`: keys may come before that is drawn, and a credential would be named, and shown, as another line's value.
    const place = editor.current?.place();
    const isSecret = place?.context.groupAt.get(place.at)?.id === 'credential';
    if (text === '') tell('Select a text first, or go to a line that has a value: it becomes the variable.');
    else editor.current?.putVariable(onLift(text, nameNear(place), isSecret));
  };
  const latest = useRef({ setText, onSend, onName, lift, words, context, text: kept.sheet.text });
  latest.current = { setText, onSend, onName, lift, words, context, text: kept.sheet.text };
  const { id } = kept;
  useEffect(() => {
    let isCurrent = true;
    import('./sheet-editor')
      .then(({ openSheet }) => {
        if (!isCurrent || host.current === null) return;
        editor.current = openSheet(host.current, {
          text: latest.current.text,
          context: latest.current.context,
          words: () => latest.current.words,
          kept: readHistory(id),
          onText: (text) => {
            latest.current.setText(text);
            writeHistory(id, () => editor.current?.state());
          },
          onPlace: (read, at) => {
            setHere({ context: read, at });
            latest.current.onName(lineName({ context: read, at }));
          },
          onSend: () => latest.current.onSend(),
          onLift: () => latest.current.lift(),
          onLeave: () => host.current?.closest<HTMLElement>('[data-home]')?.focus(),
        });
        setState('there');
      })
      .catch(() => {
        if (isCurrent) setState('failed');
      });
    return () => {
      isCurrent = false;
      editor.current?.close();
      editor.current = undefined;
    };
  }, [id]);
  useEffect(() => {
    const text = own.current.has(kept.sheet) ? undefined : kept.sheet.text;
    editor.current?.show(text, context);
  }, [kept.sheet, context]);
  /** By the sheet as it is: what was drawn last may be behind it. */
  const changeSheet = (change: (kept: KeptDraft) => Sheet): void => onChange((one) => withSheet(one, change(one)));
  return (
    <div className="flex min-h-0 min-w-0 flex-col p-4 text-[13px]">
      <Tools
        kept={kept}
        editor={() => editor.current}
        onLift={lift}
        onLayout={(layout) => changeSheet(({ sheet }) => relayout(sheet, layout))}
        attachAt={here?.at ?? 0}
        onSheet={changeSheet}
      />
      {state === 'failed' ? <p className="text-failed">The editor could not be loaded. Load the page again.</p> : null}
      {state === 'loading' ? <p className="text-soft">Loading the sheet</p> : null}
      <div
        ref={host}
        data-sheet
        hidden={state !== 'there'}
        className="min-h-0 flex-1 overflow-hidden border border-line bg-sheet max-lg:min-h-96"
      />
      <Below here={here} onGo={(offset) => editor.current?.goTo(offset)} />
    </div>
  );
}

const NONE_NEEDED: SheetContext['needed'] = [];

interface ToolsProps {
  readonly kept: KeptDraft;
  readonly editor: () => SheetEditor | undefined;
  readonly onLift: () => void;
  readonly onLayout: (layout: Sheet['layout']) => void;
  readonly attachAt: number;
  readonly onSheet: (change: (kept: KeptDraft) => Sheet) => void;
}

/** What can be done to the sheet beside typing on it. */
function Tools({ kept, editor, onLift, onLayout, attachAt, onSheet }: ToolsProps) {
  const { layout } = kept.sheet;
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-soft">
      <Presets kept={kept} editor={editor} onSheet={onSheet} />
      <Command id="sheet-strike" keys={['x']} label="Leave the line out, or restore it" run={() => editor()?.strike()}>
        strike
      </Command>
      <Command
        id="sheet-strike-group"
        keys={['Shift+X']}
        label="Leave the group of lines out, or restore it"
        run={() => editor()?.strikeGroup()}
      >
        strike group
      </Command>
      <Command id="sheet-variable" keys={['b']} label="Make the selection a variable" run={onLift}>
        variable
      </Command>
      <Command id="sheet-undo" keys={['u']} label="Undo the last change of the sheet" run={() => editor()?.undo()}>
        undo
      </Command>
      <Command id="sheet-edit" keys={['Enter']} label="Type on the sheet" run={() => editor()?.focus()} />
      <Command id="sheet-down" keys={['j', 'ArrowDown']} label="Next line" run={() => editor()?.move(1, false)} />
      <Command id="sheet-up" keys={['k', 'ArrowUp']} label="Previous line" run={() => editor()?.move(-1, false)} />
      <Command id="sheet-next" keys={['Shift+J']} label="Next group of lines" run={() => editor()?.move(1, true)} />
      <Command
        id="sheet-before"
        keys={['Shift+K']}
        label="Previous group of lines"
        run={() => editor()?.move(-1, true)}
      />
      <span className="ml-auto flex items-center gap-3">
        <Choice
          label="How the payload is written"
          before="payload as"
          value={layout}
          options={LAYOUTS.filter(({ id }) => id === layout || (id !== 'bytes' && id !== 'unrecorded')).map(
            ({ id, label }) => [id, label.split(/[:,]/, 1)[0] ?? id] as const,
          )}
          onChoose={onLayout}
        />
        <AttachFile at={attachAt} onSheet={onSheet} />
      </span>
    </div>
  );
}

/** Lines left out and restored by what they are for, or as a trim found them to be needed. */
function Presets({ kept, editor, onSheet }: Pick<ToolsProps, 'kept' | 'editor' | 'onSheet'>) {
  return (
    <>
      {PRESETS.map((preset) => (
        <button
          key={preset}
          type="button"
          className="underline hover:text-ink"
          onClick={() => editor()?.usePreset(preset)}
        >
          {preset}
        </button>
      ))}
      {(kept.needed ?? []).length === 0 ? null : (
        <button
          type="button"
          title="Only the parts that a trim found to be needed"
          className="underline hover:text-ink"
          onClick={() => onSheet(onlyNeeded)}
        >
          needed
        </button>
      )}
    </>
  );
}

/** The sheet without the parts that a trim found to be unneeded. */
function onlyNeeded(kept: KeptDraft): Sheet {
  const keys = new Set(kept.needed?.map(({ key }) => key));
  const parts = partsOf(kept).flatMap((part) => [part, ...part.inside]);
  return withoutParts(
    kept.sheet,
    parts.filter(({ key }) => !keys.has(key)),
  );
}

interface CommandProps {
  readonly id: string;
  readonly keys: readonly string[];
  readonly label: string;
  readonly run: () => void;
  /** The button's word; without one the key alone does it. */
  readonly children?: string;
}

function Command({ id, keys, label, run, children }: CommandProps) {
  const element = useControl<HTMLButtonElement>({ id, label, keys }, 'click');
  return (
    <button
      ref={element}
      type="button"
      title={label}
      hidden={children === undefined}
      onClick={run}
      className={children === undefined ? '' : 'inline-flex items-baseline gap-1 underline hover:text-ink'}
    >
      {children}
      {children === undefined ? null : <kbd className="font-mono text-[11px]">{keys[0]}</kbd>}
    </button>
  );
}

/** What is to be said of the line under the cursor, and what is wrong anywhere. */
function Below({ here, onGo }: { readonly here: Here | undefined; readonly onGo: (offset: number) => void }) {
  if (here === undefined) return null;
  const { context, at } = here;
  const { problems, lines } = context.read;
  return (
    <div className="mt-1 text-[12px] text-soft">
      <p role="status" className="min-h-4">
        {tellLine(here)}
      </p>
      {problems.length === 0 ? null : (
        <ul aria-label="What is wrong on the sheet" className="mt-1 max-h-24 overflow-y-auto">
          {problems.map(({ from, sentence, bars }) => (
            <li key={`${from} ${sentence}`}>
              <button type="button" className="text-left underline hover:text-ink" onClick={() => onGo(from)}>
                line {lines.findLast((line) => line.from <= from)?.number ?? at + 1}
              </button>{' '}
              <span className={bars ? 'text-failed' : ''}>{sentence}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function tellLine({ context, at }: Here): string {
  const line = context.read.lines[at];
  const group = context.groupAt.get(at);
  const difference = context.differences.find((one) => one.at === at);
  const what = group === undefined ? 'blank' : [group.label, group.reason].filter(Boolean).join(', ');
  const state = line?.isStruck === true ? ', left out' : '';
  const was =
    difference === undefined
      ? ''
      : difference.was === undefined
        ? ' New here.'
        : group?.id === 'credential'
          ? ' Captured with another one.'
          : ` Captured: ${difference.was.slice(0, 80) || 'nothing'}.`;
  const reason = context.reasons.get(at);
  const needed = reason === undefined || line?.isStruck === true ? '' : ` Needed: ${reason}.`;
  return `Line ${at + 1}${state}: ${what}.${was}${needed}`;
}

/** A name for a variable, from the line that its text stands in. */
function nameNear(here: Here | undefined): string {
  const text = here?.context.read.lines[here.at]?.text ?? '';
  if (/^authorization:/i.test(text)) return 'token';
  return /^\s*[?&"]*([^=:"]+)/.exec(text)?.[1] ?? 'value';
}

/** What a line says something of: a parameter, a header, a field; empty for others. */
function lineName({ context, at }: Here): string {
  const line = context.read.lines[at];
  if (line === undefined || line.isStruck || !['query', 'header', 'payload'].includes(line.kind)) return '';
  if (line.kind === 'query') return readPiece(line.text.trimStart().slice(1)).name;
  return /^\s*&?"?([^=:"]+)"?\s*[=:]/.exec(line.text)?.[1] ?? '';
}

/** How much a draft differs from the captured request, for the line above the sheet. */
export function tellChanges(captured: Sheet, sheet: Sheet): string {
  const [changed, leftOut] = [differences(captured, sheet).length, countLeftOut(captured, sheet)];
  const parts = [
    ...(changed === 0 ? [] : [`changed in ${formatPlural(changed, 'place')}`]),
    ...(leftOut === 0 ? [] : [`${formatPlural(leftOut, 'line')} left out`]),
  ];
  return parts.length === 0 ? 'as captured' : parts.join(', ');
}
