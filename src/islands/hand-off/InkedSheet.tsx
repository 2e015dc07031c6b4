import { useCallback } from 'react';
import type { ExchangePreview, PreviewLine, PreviewMessage, Stretch } from '#core/redact';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { fetchPreview } from './hand-off-api';

interface InkedSheetProps {
  readonly captureId: string;
  /** What was made, by its id. */
  readonly made: string;
  readonly place: number;
  /** The placeholder of the secret that is looked at. */
  readonly current: string | undefined;
  readonly onChoose: (value: string) => void;
}

/** One exchange as it would leave: a message on ruled lines, with a bar of ink where a secret was. */
export function InkedSheet({ captureId, made, place, current, onChoose }: InkedSheetProps) {
  const fetchIt = useCallback(() => fetchPreview(captureId, made, place), [captureId, made, place]);
  const [fetched, again] = useFetched<ExchangePreview>(fetchIt);
  if (fetched.state === 'loading') return <Loading what={`exchange #${place}`} />;
  if (fetched.state === 'failed')
    return (
      <Problem problem={fetched.problem}>
        <Button onClick={again}>Try again</Button>
      </Problem>
    );
  const { request, response, messages } = fetched.value;
  const lineProps = { current, onChoose };
  return (
    <div className="pb-10">
      <Message title="request" message={request} {...lineProps} />
      <Message title="response" message={response} {...lineProps} />
      {messages.length === 0 ? null : (
        <Message title="messages" message={{ head: messages, body: [], bodyNote: undefined }} {...lineProps} />
      )}
    </div>
  );
}

interface LineProps {
  readonly current: string | undefined;
  readonly onChoose: (value: string) => void;
}

interface MessageProps extends LineProps {
  readonly title: string;
  readonly message: PreviewMessage;
}

function Message({ title, message: { head, body, bodyNote }, ...rest }: MessageProps) {
  return (
    <section aria-label={`The ${title} as it leaves`}>
      <h2 className="sticky top-0 bg-sheet px-4 pt-3 pb-1 text-[12px] text-soft">{title}</h2>
      <Lines lines={head} {...rest} />
      {body.length === 0 && bodyNote === undefined ? null : (
        <>
          <p className="mx-4 border-line border-b text-[12px] text-soft">{bodyNote ?? ' '}</p>
          <Lines lines={body} {...rest} />
        </>
      )}
    </section>
  );
}

function Lines({ lines, ...rest }: LineProps & { readonly lines: readonly PreviewLine[] }) {
  return (
    <div className="px-4 font-mono text-[12.5px] leading-5">
      {lines.map((line, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines are known by their places alone.
        <p key={at} className="min-h-5 whitespace-pre-wrap border-grid border-b [overflow-wrap:anywhere]">
          {line.map((stretch, place) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: stretches are, too.
            <StretchText key={place} stretch={stretch} {...rest} />
          ))}
        </p>
      ))}
    </div>
  );
}

/** Bars are as long as what stands in the file, as far as a line allows. */
const LONGEST_BAR_CHARS = 48;

function StretchText({ stretch: { text, secret }, current, onChoose }: LineProps & { readonly stretch: Stretch }) {
  if (secret === undefined) return text;
  const shown = text.length > LONGEST_BAR_CHARS ? `${text.slice(0, LONGEST_BAR_CHARS - 1)}…` : text;
  return (
    // The list beside it is the way by keyboard.
    <button
      type="button"
      tabIndex={-1}
      data-inked={secret.kind}
      title={`${secret.name === '' ? secret.kind : secret.name}: inked out${text.startsWith('eyJ') ? '; of the token only its header and its times are left' : ''}`}
      onClick={() => onChoose(secret.value)}
      className={`px-0.5 text-left text-paper ${secret.value === current ? 'bg-route' : 'bg-ink'}`}
    >
      {shown}
    </button>
  );
}
