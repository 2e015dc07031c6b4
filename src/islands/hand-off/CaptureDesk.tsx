import { useCallback, useMemo, useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { countText, type HandOffChoice, isProven, proofText } from '#core/redact';
import type { ListedSecret, MadeHandOff } from '#core/wire';
import { formatBytes, formatPlural } from '#core/wording';
import { fileName, saveFile } from '../export/save-file';
import { goTo } from '../state/address';
import { useHome } from '../state/focus';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { useActions } from '../ui/use-actions';
import { Bodies, OwnWords } from './ChoiceFields';
import { withKind, withValue } from './choices';
import type { DeskProps } from './desk-props';
import { fetchMade } from './hand-off-api';
import { InkedSheet } from './InkedSheet';
import { LeavingList } from './LeavingList';
import { Part } from './Part';
import { ProofList } from './ProofList';
import { SecretList } from './SecretList';
import { useMaking } from './use-making';

/** Which exchanges leave. */
const SCOPES = [
  ['all', 'all exchanges'],
  ['page', 'the exchanges of this page'],
  ['shown', 'what the filter shows'],
] as const;
type Scope = (typeof SCOPES)[number][0];

/** What is said of lists that are not there. */
const NOT_YET = 'Not looked through yet.';

interface CaptureDeskProps extends DeskProps {
  readonly change: (change: (choice: HandOffChoice) => HandOffChoice) => void;
}

/**
 * The capture as it would leave: its exchanges, one of them as a sheet with bars of ink, and what was inked out.
 * Long because the three share the exchange and the secret that are looked at.
 */
export function CaptureDesk({ card, rows, shown, place, head, choice, change }: CaptureDeskProps) {
  const scope: Scope = SCOPES.find(([id]) => id === place.scope)?.[0] ?? 'all';
  const leaving = useLeaving(scope, rows, shown);
  const places = useMemo(() => (scope === 'all' ? undefined : leaving.map(({ index }) => index)), [scope, leaving]);
  const isEmpty = leaving.length === 0;
  const state = useMaking(card.id, isEmpty ? undefined : choice, places);
  const { streamed, last } = state;
  const [secret, setSecret] = useState<string>();
  const inked = useMemo(() => new Map(last?.inked), [last]);
  const chosen =
    leaving.find(({ index }) => index === place.exchange) ??
    leaving.find(({ index }) => inked.has(index)) ??
    leaving[0];
  const home = useHome<HTMLElement>();
  const look = useCallback((one: ListedSecret, at: number | undefined) => {
    setSecret(one.value);
    if (at !== undefined) goTo({ exchange: at });
  }, []);
  const actions = {
    current: secret,
    onChoose: look,
    onSwitch: (one: ListedSecret, isOn: boolean) => change((before) => withValue(before, one, isOn)),
    onSwitchKind: (kind: ListedSecret['kind'], isOn: boolean) => change((before) => withKind(before, kind, isOn)),
  };
  useWalk(leaving, chosen?.index);
  const ready = streamed.state === 'made' && isProven(streamed.value.proof) ? streamed.value : undefined;
  return (
    <>
      <div className="flex min-h-9 shrink-0 flex-wrap items-center gap-x-4 border-line border-b bg-paper px-4">
        {head}
        <Choice
          action={{ id: 'hand-off-scope', label: 'Choose which exchanges leave', keys: ['s'] }}
          label="Which exchanges leave"
          before="with"
          value={scope}
          options={SCOPES}
          onChoose={(id) => goTo({ scope: id === 'all' ? undefined : id })}
        />
        <span className="text-soft">{formatPlural(leaving.length, 'exchange')}</span>
        <span className="ml-auto">
          <SaveButton captureId={card.id} made={ready} />
        </span>
      </div>
      {isEmpty ? (
        <p className="mx-auto mt-16 max-w-xl text-soft">
          No exchanges shown: nothing would leave. Change or clear the filter, or hand off the whole capture.
        </p>
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(11rem,15rem)_minmax(0,1fr)_minmax(16rem,24rem)] max-md:grid-cols-1 max-md:overflow-y-auto">
          <div className="flex min-h-0 flex-col border-line border-r max-md:h-40">
            <LeavingList
              rows={leaving}
              inked={inked}
              current={chosen?.index}
              onChoose={(exchange) => goTo({ exchange })}
            />
          </div>
          {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
          <section
            {...home}
            aria-label="The exchange as it leaves"
            tabIndex={0}
            className="min-h-0 overflow-y-auto bg-sheet outline-none"
          >
            {last === undefined || chosen === undefined ? (
              <p className="p-4 text-soft">What would leave is shown here once it is made.</p>
            ) : (
              <InkedSheet
                captureId={card.id}
                made={last.id}
                place={chosen.index}
                current={secret}
                onChoose={setSecret}
              />
            )}
          </section>
          <aside
            aria-label="What is inked out"
            className="min-h-0 overflow-y-auto border-line border-l px-4 pb-8 text-[13px]"
          >
            <Part title="Proof">
              <ProofList {...state} />
            </Part>
            <Part title="Inked out">
              <SecretList
                secrets={last?.replaced ?? []}
                counts={last?.counts.replaced ?? []}
                isOut
                none={last === undefined ? NOT_YET : 'No secret was found.'}
                {...actions}
              />
            </Part>
            <Part title="Suspicious, and left">
              <SecretList
                secrets={last?.left ?? []}
                counts={last?.counts.left ?? []}
                isOut={false}
                none={last === undefined ? NOT_YET : 'Nothing that looks like one was left.'}
                {...actions}
              />
              {last?.unread === undefined ? null : <p className="mt-3 text-soft">{last.unread}</p>}
            </Part>
            <Part title="Own words">
              <OwnWords choice={choice} change={change} />
            </Part>
            <Part title="Bodies">
              <Bodies choice={choice} change={change} rows={leaving} />
            </Part>
          </aside>
        </div>
      )}
    </>
  );
}

function useLeaving(scope: Scope, rows: readonly ExchangeRow[], shown: DeskProps['shown']): readonly ExchangeRow[] {
  const { placed, arrangement } = shown;
  return useMemo(() => {
    if (scope === 'all') return rows;
    const chosen = (scope === 'page' ? arrangement.placed : placed).map(({ row }) => row);
    return chosen.toSorted((one, other) => one.index - other.index);
  }, [scope, rows, placed, arrangement]);
}

/** Goes from exchange to exchange by key. */
function useWalk(rows: readonly ExchangeRow[], current: number | undefined): void {
  useActions(
    'view',
    useMemo(() => {
      const go = (by: number) => () => {
        const at = rows.findIndex(({ index }) => index === current);
        const next = rows[Math.min(rows.length - 1, Math.max(0, at + by))];
        if (next !== undefined) goTo({ exchange: next.index });
      };
      return [
        { id: 'next', label: 'Next exchange', keys: ['j', 'ArrowDown'], run: go(1) },
        { id: 'previous', label: 'Previous exchange', keys: ['k', 'ArrowUp'], run: go(-1) },
      ];
    }, [rows, current]),
  );
}

const proofLines = ({ proof, counts }: MadeHandOff): string =>
  `${[...proofText(proof), ...countText(counts.replaced)].join('\n')}\n`;

/** Saves what was made with its proof beside it; off until it is proven. */
function SaveButton({ captureId, made }: { readonly captureId: string; readonly made: MadeHandOff | undefined }) {
  const [isOff, setIsOff] = useState(false);
  const save = async (): Promise<void> => {
    if (made === undefined) return;
    setIsOff(true);
    const answer = await fetchMade(captureId, made.id);
    setIsOff(false);
    if (!answer.ok) {
      tell(answer.problem.sentence, { detail: answer.problem.advice });
      return;
    }
    const name = fileName(`${made.name} redacted`, 'har');
    saveFile(name, answer.value);
    saveFile(fileName(`${made.name} redacted proof`, 'txt'), new Blob([proofLines(made)], { type: 'text/plain' }));
    tell(`Saved ${name}, ${formatBytes(answer.value.size)}, and its proof.`);
  };
  return (
    <Button
      isMain
      isOff={made === undefined || isOff}
      onClick={save}
      action={{ id: 'hand-off-save', label: 'Save what leaves, with its proof', keys: ['x'] }}
    >
      Save as HAR{made === undefined ? '' : `, ${formatBytes(made.bytes)}`}
    </Button>
  );
}
