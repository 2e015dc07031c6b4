import { useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { type PlottedLeg, tellLegs } from '#core/brief';
import { legName, type MarkTarget } from '#core/marks';
import { formatMs, formatPlural } from '#core/wording';
import { NoteControls, NoteText } from '../marks/NoteLine';

interface RouteListProps {
  readonly legs: readonly PlottedLeg[];
  readonly rowOf: (index: number) => ExchangeRow | undefined;
  readonly onLeg: (leg: PlottedLeg) => void;
  /** The page whose route it is. */
  readonly page: string;
}

/** Shorter gaps than this is not listed by itself. */
const LISTED_MS = 5;
/** So many legs, the longest, are listed; the others are folded between them. */
const FIRST_SHOWN = 10;

const lengthOf = ({ startMs, endMs }: PlottedLeg): number => endMs - startMs;

const targetOf = (leg: PlottedLeg, page: string): MarkTarget => ({ type: 'leg', page, leg: legName(leg) });

/**
 * The legs in their order; each exchange opens its strip. Of a long route only the longest legs, until all are asked for.
 * Long because it is the markup of one list.
 */
export function RouteList({ legs, rowOf, onLeg, page }: RouteListProps) {
  const [showsAll, setShowsAll] = useState(false);
  let number = 0;
  const told = tellLegs(legs, rowOf)
    .filter(({ leg }) => leg.type !== 'gap' || lengthOf(leg) >= LISTED_MS)
    .map((one) => ({ ...one, number: one.leg.type === 'gap' ? undefined : ++number }));
  const longest = new Set(
    told
      .toSorted((one, other) => lengthOf(other.leg) - lengthOf(one.leg))
      .slice(0, FIRST_SHOWN)
      .map(({ leg }) => leg),
  );
  // A few more than are shown would cost a press for nothing.
  const isLong = told.length > FIRST_SHOWN + 2;
  const shown = showsAll || !isLong ? told : told.filter(({ leg }) => longest.has(leg));
  return (
    <>
      <ol aria-label="Legs of the route" className="text-[13px]">
        {shown.map(({ leg, name, words, number: own }) => (
          <li
            key={leg.startMs}
            className="group grid grid-cols-[28px_minmax(0,1fr)_76px_72px] border-grid border-b py-1"
          >
            {own === undefined ? (
              <span aria-hidden="true">·</span>
            ) : (
              <b className="font-mono font-semibold text-route">{own}</b>
            )}
            {leg.type === 'gap' ? (
              <span className="min-w-0 text-soft [overflow-wrap:anywhere]">
                {words}
                <NoteText target={targetOf(leg, page)} />
              </span>
            ) : (
              <span className="min-w-0 [overflow-wrap:anywhere]">
                <button
                  type="button"
                  data-leg={leg.index}
                  title={rowOf(leg.index)?.url ?? name}
                  className="max-w-full truncate text-left align-bottom font-semibold hover:text-route hover:underline"
                  onClick={() => onLeg(leg)}
                >
                  {name}
                </button>{' '}
                <span className="text-soft">{words}</span>
                <NoteText target={targetOf(leg, page)} />
              </span>
            )}
            <NoteControls
              target={targetOf(leg, page)}
              name={leg.type === 'gap' ? 'this gap' : `the leg of #${leg.index}`}
              isQuiet
            />
            <span className="text-right font-mono">{formatMs(lengthOf(leg))}</span>
          </li>
        ))}
      </ol>
      {isLong ? (
        <button
          type="button"
          aria-expanded={showsAll}
          onClick={() => setShowsAll(!showsAll)}
          className="mt-1 min-h-6 text-[13px] text-soft underline hover:text-ink"
        >
          {showsAll
            ? `Show only the ${FIRST_SHOWN} longest legs`
            : `Show all ${formatPlural(told.length, 'leg')}: these are the ${FIRST_SHOWN} longest`}
        </button>
      ) : null}
    </>
  );
}
