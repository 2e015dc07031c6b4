import type { ExchangeRow } from '#core/analysis';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import type { Variants } from './use-variants';

interface ChangedResponsesProps {
  readonly variants: Variants;
  /** The exchange under the cursor. */
  readonly exchange: number | undefined;
  readonly rows: readonly ExchangeRow[];
}

/** What is asked most of a page: what it does when a response is late, fails, or has nothing in it. */
const EVERYDAY = [
  ['late', 'delay=5s'],
  ['failing', 'status=503'],
  ['an empty list', 'list=empty'],
  ['no response', 'fails=reset'],
] as const;

const NONE = 'none';

/**
 * Captured responses changed for the rehearsal, line by line, kept under a name.
 * Long because it is the markup of one group of fields, in the order in which they are read.
 */
export function ChangedResponses({ variants, exchange, rows }: ChangedResponsesProps) {
  const { all, chosen } = variants;
  const row = rows.find(({ index }) => index === exchange);
  const add = (what: string): void => {
    const line = `${exchange} ${what}`;
    if (chosen === undefined) variants.add(line);
    else variants.change({ text: chosen.text.trim() === '' ? line : `${chosen.text.trimEnd()}\n${line}` });
  };
  return (
    <fieldset aria-label="Changed responses" className="mt-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <Choice
          label="Changed responses"
          before="changed"
          value={chosen?.id ?? NONE}
          options={[
            [NONE, 'nothing'],
            ...all.map(({ id, name }) => [id, name === '' ? 'without a name' : name] as const),
          ]}
          onChoose={(id) => variants.choose(id === NONE ? undefined : id)}
        />
        {row === undefined ? (
          <span className="text-soft">
            Put the cursor on an exchange, as in the waterfall, to have its response changed.
          </span>
        ) : (
          <span className="flex flex-wrap items-center gap-2 text-soft">
            have #{row.index} {lastOf(row)} come
            {EVERYDAY.map(([word, what]) => (
              <button key={what} type="button" onClick={() => add(what)} className="underline hover:text-ink">
                {word}
              </button>
            ))}
          </span>
        )}
        {chosen === undefined ? (
          <button type="button" onClick={() => variants.add()} className="text-soft underline hover:text-ink">
            write changes
          </button>
        ) : null}
      </div>
      {chosen === undefined ? null : (
        <div className="mt-2 grid gap-1">
          <div className="flex items-center gap-2">
            <input
              aria-label="Name of the changes"
              value={chosen.name}
              maxLength={200}
              onChange={({ target }) => variants.change({ name: target.value })}
              className="w-60 border border-line bg-paper px-1"
            />
            <Button onClick={variants.drop}>Delete</Button>
          </div>
          <textarea
            aria-label="Changes, a line each"
            value={chosen.text}
            spellCheck={false}
            rows={Math.min(10, Math.max(3, chosen.text.split('\n').length + 1))}
            onChange={({ target }) => variants.change({ text: target.value })}
            className="w-full border border-line bg-paper p-1 font-mono text-[12px] leading-4"
          />
          <p className="text-[12px] text-soft">
            An exchange’s number, then <code>status=503</code>, <code>delay=5s</code>, <code>header=Name: value</code>,{' '}
            <code>body=…</code>, <code>list=empty</code>, or <code>fails=reset</code>, <code>silence</code> or{' '}
            <code>breaks-off</code>.
          </p>
        </div>
      )}
    </fieldset>
  );
}

const lastOf = ({ url }: ExchangeRow): string =>
  url
    .replace(/[?#].*$/s, '')
    .split('/')
    .filter(Boolean)
    .at(-1) ?? url;
