import { useMemo, useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { type ChangedResponse, ChangeError, readChanges } from '#core/rehearse';
import type { RehearsalOrder, ResponseVariant } from '#core/wire';
import { formatPlural } from '#core/wording';
import type { Shown } from '../capture/use-shown';
import { goTo } from '../state/address';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import type { ViewProps } from '../view-props';
import { ChangedResponses } from './ChangedResponses';
import { useVariants } from './use-variants';

/** Which exchanges are played. */
const SCOPES = [
  ['all', 'the whole capture'],
  ['page', 'this page'],
  ['shown', 'what the filter shows'],
] as const;
type Scope = (typeof SCOPES)[number][0];

const TIMES = [
  ['1', 'as captured'],
  ['0', 'at once'],
  ['2', 'twice as long as captured'],
  ['0.5', 'half as long as captured'],
] as const;

interface RehearsalFormProps extends Pick<ViewProps, 'card' | 'rows' | 'shown' | 'place'> {
  readonly isBeginning: boolean;
  readonly onBegin: (order: RehearsalOrder) => void;
}

/**
 * How a rehearsal is to go.
 * Long because it is one sentence of choices after the other, in the order in which they are read.
 */
export function RehearsalForm({ card, rows, shown, place, isBeginning, onBegin }: RehearsalFormProps) {
  const [time, setTime] = useState<(typeof TIMES)[number][0]>('1');
  const [rewrites, setRewrites] = useState<'yes' | 'no'>('yes');
  const [misses, setMisses] = useState<'404' | 'forward'>('404');
  const [isSecure, setSecure] = useState(false);
  const [isExact, setExact] = useState(false);
  const variants = useVariants(card.id);
  const scope: Scope = SCOPES.find(([id]) => id === place.scope)?.[0] ?? 'all';
  const played = useMemo(() => playedOf(scope, rows, shown), [scope, rows, shown]);
  const changes = changesOf(variants.chosen);
  const problem =
    played.length === 0
      ? 'No exchange is left to answer with: clear the filter.'
      : typeof changes === 'string'
        ? changes
        : undefined;
  const begin = (): void => {
    if (typeof changes === 'string') return;
    onBegin({
      time: Number(time),
      rewrites: rewrites === 'yes',
      forwards: misses === 'forward',
      isSecure,
      isExact,
      changes,
      ...(scope === 'all' ? {} : { places: played.map(({ index }) => index) }),
    });
  };
  return (
    <form
      aria-label="A rehearsal"
      className="border border-line bg-sheet p-3 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        begin();
      }}
    >
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <Choice
          label="What is rehearsed"
          before="answers as"
          value={scope}
          options={SCOPES}
          onChoose={(id) => goTo({ scope: id === 'all' ? undefined : id })}
        />
        <Choice label="Times" before="in times" value={time} options={TIMES} onChoose={setTime} />
        <Choice
          label="Addresses"
          before="addresses"
          value={rewrites}
          options={[
            ['yes', 'of captured hosts lead to the rehearsal'],
            ['no', 'stay as captured, byte for byte'],
          ]}
          onChoose={setRewrites}
        />
        <Choice
          label="Requests that nothing fits"
          before="what nothing fits"
          value={misses}
          options={[
            ['404', 'gets a 404'],
            ['forward', 'is sent to the real host'],
          ]}
          onChoose={setMisses}
        />
        <Check label="by HTTPS" isOn={isSecure} onTurn={setSecure} />
        <Check label="tokens and cookies have to be the same" isOn={isExact} onTurn={setExact} />
      </div>
      <ChangedResponses variants={variants} exchange={place.exchange} rows={rows} />
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button
          isMain
          isSubmit
          isOff={problem !== undefined || isBeginning}
          action={{ id: 'rehearsal-begin', label: 'Begin the rehearsal', keys: ['Shift+Enter'] }}
        >
          Begin
        </Button>
        <span role="status" className={problem === undefined ? 'text-soft' : 'text-failed'}>
          {problem ?? (isBeginning ? 'Beginning' : tellPlan(played.length, changes))}
        </span>
      </div>
    </form>
  );
}

function tellPlan(count: number, changes: readonly ChangedResponse[] | string): string {
  const changed =
    typeof changes === 'string' || changes.length === 0 ? '' : `, ${formatPlural(changes.length, 'response')} changed`;
  return `${formatPlural(count, 'exchange')}${changed}. Only programs on this machine can ask.`;
}

function playedOf(scope: Scope, rows: readonly ExchangeRow[], shown: Shown): readonly ExchangeRow[] {
  switch (scope) {
    case 'all':
      return rows;
    case 'page':
      return shown.arrangement.placed.map(({ row }) => row);
    case 'shown':
      return shown.placed.map(({ row }) => row);
    default:
      return scope satisfies never;
  }
}

/** What is changed, or what of it cannot be read. */
export function changesOf(
  variant: (Pick<ResponseVariant, 'name'> & { readonly text: string }) | undefined,
): readonly ChangedResponse[] | string {
  if (variant === undefined) return [];
  try {
    return readChanges(variant.text);
  } catch (error) {
    if (error instanceof ChangeError) return `Changed responses: ${error.message}`;
    throw error;
  }
}

interface CheckProps {
  readonly label: string;
  readonly isOn: boolean;
  readonly onTurn: (isOn: boolean) => void;
}

const Check = ({ label, isOn, onTurn }: CheckProps) => (
  <label className="flex items-center gap-1 text-soft">
    <input type="checkbox" checked={isOn} onChange={({ target }) => onTurn(target.checked)} />
    {label}
  </label>
);
