import { type ExchangeRow, nameExchange } from '#core/analysis';
import type { PlottedLeg } from '#core/brief';
import { PHASES } from '#core/model';
import type { ParentEvidence } from '#core/timing';
import { formatMs } from '#core/wording';
import { PHASE_NAME } from '../ui/phases';

const EVIDENCE_WORD: Record<ParentEvidence, string> = {
  redirect: 'led here by a redirect',
  preflight: 'after its preflight',
  declared: 'asked for by it, the recorder says',
  referenced: 'named in its body',
  referer: 'asked for by it, by the Referer',
  document: 'asked for by the page',
};

interface RouteListProps {
  readonly legs: readonly PlottedLeg[];
  readonly rowOf: (index: number) => ExchangeRow | undefined;
  readonly onLeg: (leg: PlottedLeg) => void;
}

/** The legs one by one; each exchange opens its strip. Shorter browser work than this is not listed by itself. */
const LISTED_MS = 5;
const SHARE_OF_LEG = 0.04;

export function RouteList({ legs, rowOf, onLeg }: RouteListProps) {
  let number = 0;
  return (
    <ol aria-label="Legs of the route" className="text-[13px]">
      {legs.map((leg) => {
        if (leg.type === 'browser') {
          return leg.endMs - leg.startMs < LISTED_MS ? null : (
            <li key={leg.startMs} className="grid grid-cols-[24px_1fr_80px] border-grid border-b py-1 text-soft">
              <span aria-hidden="true">·</span>
              <span>{browserWords(leg, rowOf)}</span>
              <span className="text-right font-mono text-ink">{formatMs(leg.endMs - leg.startMs)}</span>
            </li>
          );
        }
        number++;
        const row = rowOf(leg.index);
        return (
          <li key={leg.startMs} className="grid grid-cols-[24px_1fr_80px] border-grid border-b py-1">
            <b className="font-mono font-semibold text-route">{number}</b>
            <span className="min-w-0">
              <button
                type="button"
                data-leg={leg.index}
                className="max-w-full truncate text-left font-semibold hover:text-route hover:underline"
                onClick={() => onLeg(leg)}
              >
                {row === undefined ? `#${leg.index}` : nameExchange(row)}
              </button>{' '}
              <span className="text-soft">
                #{leg.index} on {row?.host}: {phaseWords(leg)}
                {leg.evidence === undefined ? '' : `; ${EVIDENCE_WORD[leg.evidence]}`}
                {leg.confidence === 'weak' ? ' (weak)' : ''}
              </span>
            </span>
            <span className="text-right font-mono">{formatMs(leg.endMs - leg.startMs)}</span>
          </li>
        );
      })}
    </ol>
  );
}

/** The phases that matter, the longest first. */
function phaseWords(leg: Extract<PlottedLeg, { type: 'exchange' }>): string {
  const least = (leg.endMs - leg.startMs) * SHARE_OF_LEG;
  const told = PHASES.map((phase) => ({ phase, ms: leg.phases[phase] ?? 0 }))
    .filter(({ ms }) => ms > least)
    .sort((a, b) => b.ms - a.ms)
    .map(({ phase, ms }) => `${PHASE_NAME[phase]} ${formatMs(ms)}`);
  return told.length === 0 ? 'phases unknown' : told.join(', ');
}

function browserWords(leg: Extract<PlottedLeg, { type: 'browser' }>, rowOf: RouteListProps['rowOf']): string {
  const name = (index: number | undefined): string | undefined => {
    const row = index === undefined ? undefined : rowOf(index);
    return row === undefined ? undefined : nameExchange(row);
  };
  const [after, before] = [name(leg.after), name(leg.before)];
  if (after === undefined) return before === undefined ? 'browser at work' : `browser: before it asked for ${before}`;
  return before === undefined ? `browser: after ${after} had come` : `browser: between ${after} and ${before}`;
}
