import { useCallback, useMemo, useState } from 'react';
import type { AskedExchange, Rehearsal } from '#core/wire';
import { formatInstant, formatPlural } from '#core/wording';
import { offsetOf } from '../frame/ZoneChooser';
import { goTo } from '../state/address';
import { useHome } from '../state/focus';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Loading, Problem } from '../ui/Problem';
import type { ViewProps } from '../view-props';
import { AskedSheet } from './AskedSheet';
import { AskedStrips } from './AskedStrips';
import { RehearsalForm } from './RehearsalForm';
import { StagePanel } from './StagePanel';
import { useRehearsals } from './use-rehearsals';

/** Which requests are listed. */
const LISTED = [
  ['all', 'all requests'],
  ['differing', 'those not as captured'],
  ['missed', 'those that nothing fits'],
] as const;
type Listed = (typeof LISTED)[number][0];

const choose = (id: string | undefined): void => goTo({ run: id, trial: undefined });

/**
 * A server that answers as the capture did: begun here, and what it is asked, request by request.
 * Long because form, list and sheet share the rehearsal and the request that are looked at.
 */
export default function RehearsalView({ card, rows, shown, place }: ViewProps) {
  const rehearsals = useRehearsals(card.id, place.run, choose);
  const [listed, setListed] = useState<Listed>('all');
  const [isNew, setNew] = useState(false);
  const home = useHome<HTMLDivElement>();
  const { state, problem, current, asked, all } = rehearsals;
  const zoneMinutes = offsetOf(place.zone, card.utcOffsetMinutes, card.overview.recordedAt ?? 0);
  const list = useMemo(() => asked.filter((one) => IS_LISTED[listed](one)), [asked, listed]);
  const chosen = asked.find(({ number }) => number === place.trial);
  const onChoose = useCallback((number: number) => goTo({ trial: number }), []);
  if (state === 'loading') return <Loading what="the rehearsals" />;
  if (state === 'failed' && problem !== undefined)
    return (
      <Problem problem={problem}>
        <Button onClick={rehearsals.again}>Try again</Button>
      </Problem>
    );
  const isFormOpen = current === undefined || isNew;
  return (
    <div {...home} tabIndex={-1} className="flex min-h-0 flex-1 flex-col outline-none">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-line border-b px-4 py-2 text-[13px]">
        <h1 className="font-bold text-base">Rehearsal</h1>
        <p className="text-soft">A server on this machine that answers as the capture did.</p>
        <span className="ml-auto flex items-center gap-3">
          {current === undefined || all.length < 2 ? null : (
            <Choice
              label="Which rehearsal"
              before="shown:"
              value={current.id}
              options={all.map((one) => [one.id, nameOf(one, zoneMinutes)] as const)}
              onChoose={choose}
            />
          )}
          {current === undefined ? null : (
            <Button
              action={{ id: 'rehearsal-new', label: 'A new rehearsal', keys: ['Shift+N'] }}
              onClick={() => setNew(!isNew)}
            >
              {isNew ? 'Close the form' : 'New'}
            </Button>
          )}
        </span>
      </div>
      {isFormOpen ? (
        <div className="p-4">
          <RehearsalForm
            card={card}
            rows={rows}
            shown={shown}
            place={place}
            isBeginning={rehearsals.isBeginning}
            onBegin={(order) => {
              setNew(false);
              rehearsals.begin(order);
            }}
          />
          {current === undefined ? <Use /> : null}
        </div>
      ) : null}
      {current === undefined ? null : (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
          <div className="flex min-h-0 flex-col border-line border-r">
            <StagePanel rehearsal={current} rehearsals={rehearsals} captureName={card.name} />
            <div className="flex items-center gap-3 px-4 py-1 text-[13px]">
              <Choice
                label="Which requests are listed"
                before="listed:"
                value={listed}
                options={LISTED}
                onChoose={setListed}
              />
              <span className="text-soft">{formatPlural(list.length, 'request')}</span>
            </div>
            {list.length === 0 && asked.length > 0 ? <p className="px-4 text-soft">No request is listed.</p> : null}
            <AskedStrips
              asked={list}
              current={chosen?.number}
              isRunning={current.status === 'running'}
              onChoose={onChoose}
            />
          </div>
          {chosen === undefined ? (
            <p className="p-4 text-soft">
              {asked.length === 0
                ? 'Open the page, or run your code against the address: each request is held against the captured one here.'
                : 'Choose a request to see what it has otherwise than the captured one.'}
            </p>
          ) : (
            <AskedSheet of={chosen} captured={rows.find(({ index }) => index === chosen.taken)} />
          )}
        </div>
      )}
    </div>
  );
}

const IS_LISTED: Readonly<Record<Listed, (one: AskedExchange) => boolean>> = {
  all: () => true,
  differing: ({ fits, verdict }) => fits !== 'fits' || verdict === 'differs',
  missed: ({ fits }) => fits === 'none' || fits === 'refused' || fits === 'forwarded',
};

const nameOf = ({ startedAt, status }: Rehearsal, zoneMinutes: number): string =>
  `${formatInstant(startedAt, zoneMinutes)}${status === 'running' ? ', running' : ''}`;

/** What it is good for, where none was begun yet. */
function Use() {
  return (
    <ul className="mt-3 list-disc pl-5 text-[13px] text-soft">
      <li>Run your own script against it, offline: each request is held against the one that the browser made.</li>
      <li>Open the captured page from it, with no other network: what was never captured is listed as missing.</li>
      <li>See what a page does when a response is late, fails, or has nothing in it.</li>
    </ul>
  );
}
