import { type ExchangeIndex, exchangeIndex, type Milestone } from '../model';
import type { Goal, RouteStop } from '../timing';

/** What a route leads to: a milestone, the end of the last exchange that a load waits for, or one exchange. */
export type Target = 'loaded' | 'domReady' | 'lastExchange' | 'milestone' | 'exchange';

/** What somebody asks for: the load as a whole, DOM ready, another milestone by its moment, or an exchange. */
export type RouteTo =
  | { readonly type: 'load' }
  | { readonly type: 'domReady' }
  | { readonly type: 'milestone'; readonly label: string; readonly atMs: number }
  | { readonly type: 'exchange'; readonly index: ExchangeIndex };

export const TO_LOAD: RouteTo = { type: 'load' };

/**
 * What a route is asked for to: "loaded", "dom-ready", the name of another milestone, or an exchange's number, as "#77".
 * Nothing at all means the load. Undefined where it names none of these.
 * @param milestones those of the page
 */
export function readRouteTo(text: string, milestones: readonly Milestone[]): RouteTo | undefined {
  const name = text.trim();
  if (name === '' || /^(load|loaded)$/i.test(name)) return TO_LOAD;
  if (/^dom[ -]?ready$/i.test(name)) return { type: 'domReady' };
  const number = /^#?(\d{1,9})$/.exec(name)?.[1];
  if (number !== undefined) return { type: 'exchange', index: exchangeIndex(Number(number)) };
  const found = milestones.find(({ label, id }) => id === 'other' && label.toLowerCase() === name.toLowerCase());
  return found === undefined ? undefined : { type: 'milestone', label: found.label, atMs: found.atMs };
}

/** The moments of a page that routes lead to, in ms since its start; unknown ones absent. */
export interface Moments {
  readonly loadedMs: number | undefined;
  readonly domReadyMs: number | undefined;
}

/** Where a page's route begins and leads to. */
export interface FoundGoal {
  readonly target: Target;
  readonly goal: Goal;
  /** The page's start, or its first exchange's where that is earlier, in ms since the page's start. */
  readonly originMs: number;
}

/**
 * Where the route of a page leads: of a load to loaded if that is known, else to DOM ready, else to the end of the last
 * exchange that a load waits for. Undefined where there is no such moment.
 * @param stops at least one
 */
export function findGoal(stops: readonly RouteStop[], page: Moments | undefined, to = TO_LOAD): FoundGoal | undefined {
  const found = goalOf(stops, page, to);
  if (found === undefined) return undefined;
  const originMs = stops.reduce((earliest, { startMs }) => Math.min(earliest, startMs), 0);
  return { ...found, originMs };
}

function goalOf(
  stops: readonly RouteStop[],
  { loadedMs, domReadyMs }: Moments = { loadedMs: undefined, domReadyMs: undefined },
  to: RouteTo,
): Omit<FoundGoal, 'originMs'> | undefined {
  switch (to.type) {
    case 'load':
      if (loadedMs !== undefined)
        return { target: 'loaded', goal: { type: 'loaded', atMs: loadedMs, readyMs: domReadyMs } };
      if (domReadyMs !== undefined) return { target: 'domReady', goal: { type: 'ready', atMs: domReadyMs } };
      return { target: 'lastExchange', goal: { type: 'moment', atMs: lastEnd(stops) } };
    case 'domReady':
      return domReadyMs === undefined ? undefined : { target: 'domReady', goal: { type: 'ready', atMs: domReadyMs } };
    case 'milestone':
      return { target: 'milestone', goal: { type: 'moment', atMs: to.atMs } };
    case 'exchange': {
      const stop = stops.find(({ index }) => index === to.index);
      if (stop === undefined) return undefined;
      return { target: 'exchange', goal: { type: 'exchange', atMs: stop.endMs, index: to.index } };
    }
    default:
      return to satisfies never;
  }
}

/** Until when the last of what a load waits for held it up; where it waits for nothing of this, what does not last ended. */
function lastEnd(stops: readonly RouteStop[]): number {
  const holding = stops.filter(({ holds }) => holds !== undefined);
  if (holding.length > 0) return greatest(holding.map(({ heldUntilMs }) => heldUntilMs));
  const passing = stops.filter(({ kind }) => kind !== 'socket' && kind !== 'stream');
  return greatest((passing.length > 0 ? passing : stops).map(({ endMs }) => endMs));
}

const greatest = (values: readonly number[]): number =>
  values.reduce((most, value) => Math.max(most, value), Number.NEGATIVE_INFINITY);
