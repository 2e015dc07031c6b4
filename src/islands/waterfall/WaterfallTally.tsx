import { useStore } from '@nanostores/react';
import type { CaptureCard } from '#core/wire';
import { formatPlural } from '#core/wording';
import type { Shown } from '../capture/use-shown';
import { ExportDialog } from '../export/ExportDialog';
import { $place, goTo, type TimeWindow } from '../state/address';
import { Choice } from '../ui/Choice';
import type { Placed } from './arrange';
import { findLanes, LANE_IDS, LANES, type LaneId } from './lanes';
import type { ChartRow } from './layout';
import { findOrder, STRIP_ORDERS } from './orders';
import { TallyLine } from './TallyLine';
import { isInWindow } from './window';

interface WaterfallTallyProps {
  readonly card: CaptureCard;
  readonly shown: Shown;
  readonly rows: readonly ChartRow[];
}

const inWindow = (placed: readonly Placed[], window: TimeWindow | undefined) =>
  (window === undefined ? placed : placed.filter((one) => isInWindow(one, window))).map(({ row }) => row);

const NO_LANES = 'none';

const countLanes = (rows: readonly ChartRow[]): number =>
  rows.filter((row) => row.type === 'lane' && row.by !== 'endpoint').length;

/** The tally, and how the strips are arranged. */
export function WaterfallTally({ card, shown, rows }: WaterfallTallyProps) {
  const place = useStore($place);
  const lanes = findLanes(place.lanes) ?? NO_LANES;
  return (
    <TallyLine
      shown={shown.sums}
      all={shown.arrangement.placed.length}
      milestones={shown.arrangement.milestones}
      hidden={shown.hidden}
    >
      <Choice
        action={{ id: 'arrange', label: 'Sort the strips', keys: ['a'] }}
        label="Sort strips by"
        before="sort"
        value={findOrder(place.order)}
        options={STRIP_ORDERS}
        onChoose={(id) => goTo({ order: id === 'start' ? undefined : id })}
      />
      <Choice<LaneId | typeof NO_LANES>
        action={{ id: 'lanes', label: 'Group the strips in lanes', keys: ['n'] }}
        label="Group strips by"
        before={lanes === NO_LANES ? 'group' : `${formatPlural(countLanes(rows), 'lane')} by`}
        value={lanes}
        options={[[NO_LANES, NO_LANES], ...LANE_IDS.map((id) => [id, LANES[id].label] as const)]}
        onChoose={(id) => goTo({ lanes: id === NO_LANES ? undefined : id, turned: [], lane: undefined })}
      />
      <label className="flex items-center gap-1" title="Fold repeated calls to an endpoint together">
        <input
          type="checkbox"
          checked={place.isGrouped}
          onChange={({ target }) => goTo({ isGrouped: target.checked, turned: [], lane: undefined })}
        />
        collapse
      </label>
      <label className="flex items-center gap-1" title="Show exchanges with third parties (t)">
        <input
          type="checkbox"
          checked={!place.hidden.includes('third')}
          onChange={({ target }) =>
            goTo({
              hidden: target.checked ? place.hidden.filter((noise) => noise !== 'third') : [...place.hidden, 'third'],
            })
          }
        />
        third parties
      </label>
      <ExportDialog card={card} exchanges={() => inWindow(shown.placed, place.window)} chart={{ shown, rows }} />
    </TallyLine>
  );
}
