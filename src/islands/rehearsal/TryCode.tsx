import { useState } from 'react';
import { type Draft, fillIn, type Rendering } from '#core/convert';
import type { KeptDraft } from '#core/sheet';
import type { AskedExchange, RehearsalOrder } from '#core/wire';
import { goTo } from '../state/address';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { CopyButton } from '../ui/CopyButton';
import { copyText } from '../ui/copy';
import { useRehearsals } from './use-rehearsals';

interface TryCodeProps {
  readonly captureId: string;
  readonly kept: KeptDraft;
  /** The command or code of a draft, as it is chosen above. */
  readonly render: (draft: Draft) => Rendering | undefined;
}

/** For code nothing is rewritten, and nothing is waited for. */
const FOR_CODE: RehearsalOrder = {
  time: 0,
  rewrites: false,
  forwards: false,
  isSecure: false,
  isExact: false,
  changes: [],
};

/** The code tried in a rehearsal: what to run, and what arrived against the captured request. */
export function TryCode(props: TryCodeProps) {
  const [isOpen, setOpen] = useState(false);
  return (
    <div className="mt-2">
      <Button
        action={{ id: 'try-code', label: 'Try the command or code in a rehearsal', keys: ['Shift+Y'] }}
        onClick={() => setOpen(!isOpen)}
      >
        Try it in a rehearsal
      </Button>
      {isOpen ? <Tried {...props} /> : null}
    </div>
  );
}

function Tried({ captureId, kept, render }: TryCodeProps) {
  const [chosen, setChosen] = useState<string>();
  const rehearsals = useRehearsals(captureId, chosen, setChosen);
  const { all, current, asked, state, problem, isBeginning } = rehearsals;
  const running = all.find(({ status }) => status === 'running');
  // One that runs is taken; what it is asked is followed.
  if (running !== undefined && current?.id !== running.id) setChosen(running.id);
  if (state === 'loading') return <p className="mt-1 text-soft">Loading the rehearsals</p>;
  if (state === 'failed') return <p className="mt-1 text-failed">{problem?.sentence}</p>;
  const port = running?.port;
  if (running === undefined || port === undefined)
    return (
      <div className="mt-2 border border-line bg-sheet p-3">
        <p className="mb-2">
          A server on this machine answers as the capture did; the command or code is sent there, and what arrives is
          held against the captured request.
        </p>
        <Button isMain isOff={isBeginning} onClick={() => rehearsals.begin(FOR_CODE)}>
          {isBeginning ? 'Beginning' : 'Begin a rehearsal'}
        </Button>
      </div>
    );
  const base = `${running.order.isSecure ? 'https' : 'http'}://127.0.0.1:${port}`;
  const rendering = render(sentTo(kept.draft, base));
  const own = asked.filter(({ taken }) => taken === kept.exchange);
  const copy = async (text: string): Promise<void> =>
    tell(
      (await copyText(text))
        ? 'Copied, with the address of the rehearsal.'
        : 'The browser does not allow this page to copy.',
    );
  return (
    <div className="mt-2 border border-line bg-sheet p-3">
      <p>
        Run it with <code className="font-mono text-[12px]">{base}</code> in place of the host, in a script of your own
        as well.{' '}
        <CopyButton text={() => base} label="Copy the address of the rehearsal">
          copy the address
        </CopyButton>
      </p>
      <div className="mt-2 flex gap-2">
        {rendering === undefined ? null : (
          <Button isMain onClick={() => void copy(rendering.text)}>
            Copy it for the rehearsal
          </Button>
        )}
        <Button onClick={rehearsals.stop}>Stop the rehearsal</Button>
      </div>
      <p role="status" className="mt-2 text-soft">
        {own.length === 0 ? 'Nothing like it has arrived yet.' : 'What arrived, the newest first:'}
      </p>
      <ul aria-label="What arrived" className="mt-1 max-h-48 overflow-y-auto">
        {own.toReversed().map((one) => (
          <Arrived key={one.number} of={one} rehearsal={running.id} />
        ))}
      </ul>
    </div>
  );
}

function Arrived({ of, rehearsal }: { readonly of: AskedExchange; readonly rehearsal: string }) {
  return (
    <li className="border-grid border-t py-1">
      <span className={of.verdict === 'differs' ? '' : 'font-bold'}>{of.sentence}</span>{' '}
      <button
        type="button"
        className="text-soft underline hover:text-ink"
        onClick={() => goTo({ view: 'rehearsal', run: rehearsal, trial: of.number })}
      >
        part by part
      </button>
    </li>
  );
}

/** A draft with the rehearsal in place of its host; all else of its URL stays as it is written. */
export function sentTo(draft: Draft, base: string): Draft {
  const plain = /^[a-z]+:\/\/[^/?#{]*/i;
  const url = plain.test(draft.url) && !/^[a-z]+:\/\/[^/?#]*\{/i.test(draft.url) ? draft.url : fillIn(draft).url;
  return { ...draft, url: url.replace(plain, base) };
}
