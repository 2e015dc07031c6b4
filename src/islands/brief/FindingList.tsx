import { useState } from 'react';
import { type Finding, findingsOn, keyOfFinding, type Severity } from '#core/diagnose';
import type { PageId } from '#core/model';
import { formatCost, formatPlural } from '#core/wording';
import { type Found, findAsideKey } from '../capture/use-found';
import { NoteControls, NoteText } from '../marks/NoteLine';
import { goTo } from '../state/address';
import { Button } from '../ui/Button';
import { CopyButton } from '../ui/CopyButton';

interface FindingListProps {
  readonly found: Found;
  /** Only what was found on this page; all where it is absent. */
  readonly page: PageId | undefined;
}

const EDGE: Record<Severity, string> = {
  broken: 'border-failed',
  costly: 'border-ink',
  wasteful: 'border-soft',
  note: 'border-line',
};

/** What was found, dearest first; each opens the waterfall on exactly its evidence. */
export function FindingList({ found, page }: FindingListProps) {
  const [showsAside, setShowsAside] = useState(false);
  if (found.state === 'reading') {
    return <p className="text-soft">Analysing the response bodies.</p>;
  }
  if (found.state === 'failed') {
    return (
      <p role="alert">
        <span className="font-bold text-failed">{found.problem.sentence}</span> {found.problem.advice}
      </p>
    );
  }
  const { dismissed, dismiss } = found;
  const judged = findingsOn(found.found, page).map((finding) => ({
    finding,
    key: keyOfFinding(finding),
    asideKey: findAsideKey(finding, dismissed),
  }));
  const open = judged.filter(({ asideKey }) => asideKey === undefined);
  const aside = judged.filter(({ asideKey }) => asideKey !== undefined);
  return (
    <>
      <h2 className="mb-3 font-bold text-[13px]">
        {open.length === 0 ? 'No problems found' : `${formatPlural(open.length, 'finding')}, dearest first`}
      </h2>
      <ol aria-label="Findings">
        {open.map(({ finding, key }) => (
          <FindingItem key={key} finding={finding} reason={undefined} onDismiss={(reason) => dismiss(key, reason)} />
        ))}
      </ol>
      {aside.length === 0 ? null : (
        <>
          <button
            type="button"
            aria-expanded={showsAside}
            className="text-[13px] text-soft underline"
            onClick={() => setShowsAside(!showsAside)}
          >
            {aside.length} dismissed
          </button>
          {showsAside ? (
            <ol className="mt-2 opacity-80">
              {aside.map(({ finding, key, asideKey = key }) => (
                <FindingItem
                  key={key}
                  finding={finding}
                  reason={dismissed[asideKey]}
                  onDismiss={(reason) => dismiss(asideKey, reason)}
                />
              ))}
            </ol>
          ) : null}
        </>
      )}
    </>
  );
}

interface FindingItemProps {
  readonly finding: Finding;
  /** Why it was dismissed; absent where it was not. */
  readonly reason: string | undefined;
  readonly onDismiss: (reason: string | undefined) => void;
}

const CHIPS = 4;

function FindingItem({ finding, reason, onDismiss }: FindingItemProps) {
  const [asksWhy, setAsksWhy] = useState(false);
  const { claim, detail, remedy, evidence, severity, confidence, rule } = finding;
  const target = { type: 'finding', key: keyOfFinding(finding) } as const;
  const aboutIt = [severity, formatCost(finding.cost), confidence === 'weak' ? 'not certain' : '']
    .filter((words) => words !== '')
    .join(', ');
  return (
    <li data-finding={rule} className={`mb-4 border-l-3 pl-3 ${EDGE[severity]}`}>
      <h3 className="font-bold leading-5">{claim}</h3>
      <p className="text-[13px] text-soft">{detail}</p>
      <p className="text-[13px]">{remedy}</p>
      <p className="mt-1 flex flex-wrap items-center gap-1.5 text-[12px]">
        {evidence.length > CHIPS ? (
          <Chip onClick={() => showEvidence(finding)}>{formatPlural(evidence.length, 'exchange')}</Chip>
        ) : (
          evidence.map((index) => (
            <Chip key={index} onClick={() => showEvidence(finding, index)}>
              #{index}
            </Chip>
          ))
        )}
        <span className="text-soft">{aboutIt}</span>
        <span className="ml-auto inline-flex items-baseline gap-2 whitespace-nowrap">
          <button
            type="button"
            className="text-soft underline hover:text-ink"
            onClick={() => (reason === undefined ? setAsksWhy(!asksWhy) : onDismiss(undefined))}
          >
            {reason === undefined ? 'dismiss' : 'restore'}
          </button>
          <CopyButton
            label="Copy this finding as text"
            text={async () => (await import('./copy-as-text')).findingAsText(finding)}
          />
          <NoteControls target={target} name="this finding" />
        </span>
        <NoteText target={target} />
      </p>
      {reason === undefined ? null : <p className="text-[12px] text-soft">Dismissed: {reason}</p>}
      {asksWhy && reason === undefined ? <WhyForm onGiven={onDismiss} /> : null}
    </li>
  );
}

function Chip({ children, onClick }: { readonly children: React.ReactNode; readonly onClick: () => void }) {
  return (
    <button type="button" onClick={onClick} className="border border-line bg-sheet px-1.5 font-mono hover:border-ink">
      {children}
    </button>
  );
}

function WhyForm({ onGiven }: { readonly onGiven: (reason: string) => void }) {
  const [why, setWhy] = useState('');
  return (
    <form
      className="mt-1 flex gap-2 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        if (why.trim() !== '') onGiven(why.trim());
      }}
    >
      <input
        aria-label="Why it is dismissed"
        placeholder="reason"
        value={why}
        onChange={({ target }) => setWhy(target.value)}
        className="min-w-0 flex-1 border border-line bg-paper px-1.5"
      />
      <Button onClick={() => (why.trim() === '' ? undefined : onGiven(why.trim()))}>Dismiss</Button>
    </form>
  );
}

/** More numbers than anybody reads in a filter. */
const MOST_FILTERED = 400;

/** The waterfall on exactly what a finding rests on, with one of them under the cursor. */
function showEvidence({ evidence }: Finding, index = evidence[0]): void {
  const numbers = evidence.slice(0, MOST_FILTERED);
  const filter = numbers.length === 1 ? `number = ${numbers[0]}` : `number in (${numbers.join(', ')})`;
  goTo({ view: 'waterfall', filter, hidden: [], window: undefined, lane: undefined, exchange: index, isOpen: false });
}
