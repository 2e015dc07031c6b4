import type { ExchangeIndex } from '#core/model';
import type { Shown } from '../capture/use-shown';
import { filterByText } from '../filter/filter-actions';
import type { Action } from '../state/actions';
import { goTo, type Place } from '../state/address';
import { focusHomeIfFree } from '../state/focus';
import type { Placed } from './arrange';
import { turnOption } from './chart-options';
import type { ChartRow } from './layout';
import { turnLane } from './turn-lane';
import { pan, windowOver, zoomAbout } from './window';

/** What can be done in the chart but by its own controls: walking, zooming, following the route, folding. */
export const chartActions = (shown: Shown, rows: readonly ChartRow[], place: Place): readonly Action[] => [
  ...cursorActions(rows, place),
  ...zoomActions(shown, rows, place),
  ...foldActions(rows, place),
  ...routeActions(shown, place),
];

const keyOfCursor = (place: Place): string | undefined => place.lane ?? place.exchange?.toString();

function goToRow(row: ChartRow | undefined): void {
  if (row === undefined) return;
  if (row.type === 'lane') goTo({ lane: row.key, exchange: undefined, isOpen: false });
  else goTo({ lane: undefined, exchange: row.placed.row.index, hit: undefined });
  // From the rail Enter would go to another view, and nobody would hear which strip is current.
  focusHomeIfFree();
}

function cursorActions(rows: readonly ChartRow[], place: Place): Action[] {
  const key = keyOfCursor(place);
  // Looked for when it is needed: actions are made anew with every step of zooming, and there may be very many rows.
  const find = (): number => rows.findIndex((row) => row.key === key);
  const step = (by: number): void => {
    const at = find();
    const next = at === -1 ? (by > 0 ? by - 1 : 0) : at + by;
    goToRow(rows[Math.min(rows.length - 1, Math.max(0, next))]);
  };
  return [
    { id: 'next', label: 'Next exchange or lane', keys: place.isOpen ? ['j'] : ['j', 'ArrowDown'], run: () => step(1) },
    {
      id: 'previous',
      label: 'Previous exchange or lane',
      keys: place.isOpen ? ['k'] : ['k', 'ArrowUp'],
      run: () => step(-1),
    },
    { id: 'first', label: 'First exchange', keys: ['Home'], run: () => goToRow(rows[0]) },
    { id: 'last', label: 'Last exchange', keys: ['End'], run: () => goToRow(rows.at(-1)) },
    {
      id: 'open',
      label: 'Open the dossier of the current exchange, or fold or unfold the current lane',
      keys: ['Enter'],
      run: () => {
        const row = rows[find()];
        if (row?.type === 'lane') turnLane(row.key);
        else if (place.exchange !== undefined) goTo({ isOpen: true });
      },
    },
  ];
}

const ZOOM_STEP = 1.6;
const PAN_STEP = 0.25;

function zoomActions(shown: Shown, rows: readonly ChartRow[], place: Place): Action[] {
  const { whole } = shown;
  const window = place.window ?? whole;
  const key = keyOfCursor(place);
  const chosen = (): readonly Placed[] => {
    const row = rows.find((one) => one.key === key);
    return row === undefined ? [] : row.type === 'lane' ? row.members : [row.placed];
  };
  const middle = (window.fromMs + window.toMs) / 2;
  const zoom = (factor: number) => (): void => goTo({ window: zoomAbout(window, middle, factor, whole) });
  const zoomTo = (find: () => readonly Placed[]) => (): void => {
    const stretches = find();
    const next = windowOver(stretches, whole);
    if (stretches.length > 0) goTo({ window: next });
  };
  const round = (ms: number): number => Math.round(ms * 10) / 10;
  return [
    { id: 'zoom-selection', label: 'Zoom to the current exchange or lane', keys: ['z'], run: zoomTo(chosen) },
    {
      id: 'zoom-filter',
      label: 'Zoom to the filtered exchanges',
      keys: ['Shift+Z'],
      run: zoomTo(() => shown.placed),
    },
    { id: 'whole', label: 'Show the whole load', keys: ['0'], run: () => goTo({ window: undefined }) },
    { id: 'closer', label: 'Zoom in', keys: ['+', '='], run: zoom(ZOOM_STEP) },
    { id: 'farther', label: 'Zoom out', keys: ['-'], run: zoom(1 / ZOOM_STEP) },
    {
      id: 'earlier',
      label: 'Move to earlier',
      keys: ['ArrowLeft'],
      run: () => goTo({ window: pan(window, -PAN_STEP, whole) }),
    },
    {
      id: 'later',
      label: 'Move to later',
      keys: ['ArrowRight'],
      run: () => goTo({ window: pan(window, PAN_STEP, whole) }),
    },
    ...(place.window === undefined
      ? []
      : [
          {
            id: 'filter-window',
            label: 'Filter by what was under way in the part shown',
            keys: ['w'],
            run: () => filterByText(`end >= ${round(window.fromMs)} ms and start <= ${round(window.toMs)} ms`),
          },
        ]),
  ];
}

/** Walking the route: to the leg after the strip under the cursor, or the one before. */
function routeActions({ legs, routeTo }: Shown, place: Place): Action[] {
  const onRoute = legs.flatMap((leg) => (leg.type === 'exchange' ? leg.index : []));
  const step = (by: 1 | -1) => (): void => {
    const at = onRoute.indexOf(place.exchange as ExchangeIndex);
    const next = onRoute[at === -1 ? (by === 1 ? 0 : onRoute.length - 1) : at + by];
    if (next !== undefined) goTo({ exchange: next, lane: undefined, hit: undefined });
  };
  return [
    { id: 'route-next', label: 'Follow the route to its next leg', keys: ['r'], run: step(1) },
    { id: 'route-previous', label: 'Follow the route back', keys: ['Shift+R'], run: step(-1) },
    {
      id: 'route-here',
      label: 'Plot the route to the current exchange, or to the load again',
      keys: ['Shift+M'],
      run: () => {
        if (place.exchange === undefined) return;
        const isHere = routeTo.type === 'exchange' && routeTo.index === place.exchange;
        goTo({ to: isHere ? undefined : `#${place.exchange}` });
      },
    },
    {
      id: 'route-dim',
      label: 'Dim what is off the route, or show it again',
      keys: ['h'],
      run: () => turnOption('dimsOffRoute'),
    },
  ];
}

function foldActions(rows: readonly ChartRow[], place: Place): Action[] {
  const turnAll = (isFolded: boolean) => (): void => {
    const turn = rows.flatMap((row) => (row.type === 'lane' && row.isFolded !== isFolded ? row.key : []));
    const kept = place.turned.filter((key) => !turn.includes(key));
    goTo({ turned: [...kept, ...turn.filter((key) => !place.turned.includes(key))] });
  };
  return [
    {
      id: 'together',
      label: place.isGrouped ? 'Show repeated calls one by one' : 'Fold repeated calls to an endpoint together',
      keys: ['Shift+E'],
      run: () => goTo({ isGrouped: !place.isGrouped, turned: [], lane: undefined }),
    },
    { id: 'fold-all', label: 'Fold all lanes', keys: ['['], run: turnAll(true) },
    { id: 'unfold-all', label: 'Unfold all lanes', keys: [']'], run: turnAll(false) },
  ];
}
