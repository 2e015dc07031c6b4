import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { EMPTY_DRAFT, guessSource, type KeptDraft, readBack } from '#core/convert';
import type { CaptureCard } from '#core/wire';
import { $place, goTo } from '../state/address';
import { useHome } from '../state/focus';
import { newId } from '../state/new-id';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { DraftOutput } from './DraftOutput';
import { DraftSheet } from './DraftSheet';
import { type Drafts, newDraft, useDrafts } from './use-drafts';

/** The work sheet of requests: what is to be sent on the left, the command or code that sends it on the right. */
export default function DraftsView({ card }: { readonly card: CaptureCard }) {
  const drafts = useDrafts(card.id);
  if (drafts.state === 'loading') return <Loading what="the drafts" />;
  if (drafts.state === 'failed') {
    return (
      <Problem problem={drafts.problem}>
        <Button onClick={drafts.again}>Try again</Button>
      </Problem>
    );
  }
  return <Sheet card={card} drafts={drafts} />;
}

type There = Extract<Drafts, { readonly state: 'there' }>;

/** Long because it is the markup of one sheet with the buttons above it. */
function Sheet({ card, drafts }: { readonly card: CaptureCard; readonly drafts: There }) {
  const { draft: asked } = useStore($place);
  const home = useHome<HTMLElement>();
  const [isPasting, setIsPasting] = useState(false);
  const current = drafts.all.find(({ id }) => id === asked) ?? drafts.all.at(-1);
  const begin = (): void => drafts.add(newDraft('empty draft', { ...EMPTY_DRAFT, url: 'https://' }, undefined));
  return (
    <section {...home} aria-label="Drafts" tabIndex={-1} className="flex min-h-0 flex-1 flex-col outline-none">
      <div className="flex flex-wrap items-center gap-3 border-line border-b bg-sheet px-4 py-2 text-[13px]">
        {current === undefined ? null : <Chooser all={drafts.all} current={current} drafts={drafts} />}
        <span className="ml-auto flex gap-2">
          {current === undefined ? null : (
            <>
              <Button
                action={{ id: 'draft-undo', label: 'Undo the last change of the draft', keys: ['u'] }}
                onClick={() => drafts.undo(current.id)}
                isOff={!drafts.canUndo(current.id)}
              >
                Undo
              </Button>
              <Button
                onClick={() => drafts.add({ ...current, id: newId(), name: `${current.name} (copy)`.slice(0, 200) })}
              >
                Duplicate
              </Button>
              <Button onClick={() => drafts.drop(current)}>Delete</Button>
            </>
          )}
          <Button onClick={() => setIsPasting(!isPasting)}>From pasted text</Button>
          <Button onClick={begin}>Empty draft</Button>
        </span>
      </div>
      {isPasting ? (
        <PasteBox
          onDrafts={(made) => {
            for (const one of made) drafts.add(one);
            setIsPasting(false);
          }}
        />
      ) : null}
      {current === undefined ? (
        isPasting ? null : (
          <Problem
            problem={{
              sentence: 'No drafts of this capture yet.',
              advice: 'Press d on an exchange to make one of its request, paste a command, or begin with an empty one.',
            }}
          >
            <Button onClick={() => goTo({ view: 'waterfall' })}>To the waterfall</Button>
          </Problem>
        )
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] max-lg:auto-rows-max max-lg:grid-cols-1 max-lg:overflow-y-auto">
          <DraftSheet
            key={current.id}
            captureId={card.id}
            kept={current}
            onChange={(change) => drafts.change(current.id, change)}
          />
          <DraftOutput kept={current} onChange={(change) => drafts.change(current.id, change)} />
        </div>
      )}
    </section>
  );
}

interface ChooserProps {
  readonly all: readonly KeptDraft[];
  readonly current: KeptDraft;
  readonly drafts: There;
}

function Chooser({ all, current, drafts }: ChooserProps) {
  return (
    <>
      <select
        aria-label="Draft"
        value={current.id}
        onChange={({ target }) => goTo({ draft: target.value })}
        className="max-w-64 bg-sheet font-bold"
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
          className="w-56 border border-line bg-paper px-1.5 text-ink"
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

function PasteBox({ onDrafts }: { readonly onDrafts: (drafts: readonly KeptDraft[]) => void }) {
  const [text, setText] = useState('');
  const read = (): void => {
    const source = guessSource(text);
    const { drafts, notes } = source === undefined ? { drafts: [], notes: [] } : readBack(text, source);
    if (drafts.length === 0) {
      tell('No request found in this text.', {
        detail: [
          ...notes,
          'It reads commands (curl in any shell, wget, http, Invoke-WebRequest), HTTP messages, fetch, XMLHttpRequest, curl config files and URLs.',
        ].join(' '),
      });
      return;
    }
    onDrafts(
      drafts.map((draft) =>
        newDraft(`${draft.method} ${draft.url.replace(/^[a-z]+:\/\//i, '').slice(0, 60)}`, draft, undefined),
      ),
    );
    if (notes.length > 0) tell(`${drafts.length} read.`, { detail: notes.join(' ') });
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
