import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import { findConnections } from '#core/analysis';
import { RouteChoice } from '../route/RouteChoice';
import { goTo } from '../state/address';
import { useActions } from '../ui/use-actions';
import type { ViewProps } from '../view-props';
import { chartActions } from './chart-actions';
import { $chartOptions, turnOption } from './chart-options';
import { findLanes } from './lanes';
import { layOut } from './layout';
import { findMeasure } from './measures';
import { NothingLeft } from './NothingLeft';
import { findOrder } from './orders';
import { turnLane } from './turn-lane';
import { Waterfall } from './Waterfall';
import { WaterfallTally } from './WaterfallTally';

/** Every exchange as a strip on the clock of the load. */
export default function WaterfallView({ card, rows, shown, place }: ViewProps) {
  const { showsLegend, dimsOffRoute } = useStore($chartOptions);
  const lanes = findLanes(place.lanes);
  const order = findOrder(place.order);
  const chartRows = useMemo(
    () => layOut(shown.placed, { order, lanes, isGrouped: place.isGrouped, turned: place.turned }),
    [shown.placed, order, lanes, place.isGrouped, place.turned],
  );
  const connections = useMemo(() => findConnections(rows), [rows]);
  useActions(
    'view',
    useMemo(() => chartActions(shown, chartRows, place), [shown, chartRows, place]),
  );
  return (
    <>
      <WaterfallTally card={card} shown={shown} rows={chartRows} />
      {shown.placed.length === 0 ? (
        <NothingLeft shown={shown} />
      ) : (
        <Waterfall
          rows={chartRows}
          connections={connections}
          placed={shown.placed}
          milestones={shown.arrangement.milestones}
          legs={shown.legs}
          route={
            shown.legs.length === 0 ? null : (
              <RouteChoice rows={rows} page={shown.arrangement.page} to={shown.routeTo} />
            )
          }
          dimsOffRoute={dimsOffRoute}
          whole={shown.whole}
          window={place.window}
          measure={findMeasure(place.measure)}
          current={place.lane ?? place.exchange?.toString()}
          showsLegend={showsLegend}
          onLegend={() => turnOption('showsLegend')}
          onPick={pickExchange}
          onTurn={turnLane}
        />
      )}
    </>
  );
}

const pickExchange = (exchange: number): void => goTo({ exchange, lane: undefined, isOpen: true, hit: undefined });
