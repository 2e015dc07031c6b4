import { type ExchangeRow, nameExchange, type PageOverview, type RouteTo } from '#core/analysis';
import { goTo } from '../state/address';
import { Choice } from '../ui/Choice';

interface RouteChoiceProps {
  readonly rows: readonly ExchangeRow[];
  readonly page: PageOverview | undefined;
  readonly to: RouteTo;
}

const LOAD = 'loaded';
const DOM_READY = 'dom-ready';

/** Where the route leads: to a milestone of the page, or to the exchange that was asked for. */
export function RouteChoice({ rows, page, to }: RouteChoiceProps) {
  const asked = to.type === 'exchange' ? rows.find(({ index }) => index === to.index) : undefined;
  const value =
    to.type === 'load'
      ? LOAD
      : to.type === 'domReady'
        ? DOM_READY
        : to.type === 'milestone'
          ? to.label
          : `#${to.index}`;
  const options: (readonly [string, string])[] = [
    [
      LOAD,
      page?.loadedMs !== undefined
        ? 'loaded'
        : page?.domReadyMs !== undefined
          ? 'DOM ready'
          : 'the last exchange waited for',
    ],
    ...(page?.loadedMs !== undefined && page.domReadyMs !== undefined ? [[DOM_READY, 'DOM ready'] as const] : []),
    ...(page?.milestones ?? []).flatMap(({ id, label }) => (id === 'other' ? [[label, label] as const] : [])),
    ...(asked === undefined ? [] : [[`#${asked.index}`, `#${asked.index} ${nameExchange(asked)}`] as const]),
  ];
  return (
    <Choice
      label="Route to"
      value={value}
      options={options}
      onChoose={(id) => goTo({ to: id === LOAD ? undefined : id })}
    />
  );
}
