import { useStore } from '@nanostores/react';
import { useMemo } from 'react';
import type { ExchangeIndex } from '#core/model';
import type { CaptureCard } from '#core/wire';
import { copyLink } from '../dossier/copy-link';
import { SECTIONS } from '../dossier/sections';
import { siftBy, termFrom, termOf } from '../sift/SiftValue';
import { type Action, holdTyping } from '../state/actions';
import { $place, goTo, type Noise, type Place } from '../state/address';
import { focusHomeIfFree } from '../state/focus';
import type { ChartRow } from '../waterfall/layout';
import { turnLane } from '../waterfall/turn-lane';
import { pan, windowOver, zoomAbout } from '../waterfall/window';
import { copyCurl } from './copy-curl';
import { askNumber } from './GoToNumber';
import { showSection } from './OpenDossier';
import type { Shown } from './use-shown';

interface ActionsOf {
  readonly card: CaptureCard;
  readonly shown: Shown;
  readonly rows: readonly ChartRow[];
  readonly onLegend: () => void;
  readonly onDim: () => void;
}

/** What can be done in a capture, each with its key. */
export function useActions({ card, shown, rows, onLegend, onDim }: ActionsOf): readonly Action[] {
  const place = useStore($place);
  return useMemo(() => {
    const everywhere = [...siftActions(shown, place), ...exchangeActions(card.id, place)];
    if (place.view === 'drafts') return [...draftActions(), ...everywhere];
    if (place.view === 'find') return [...hitActions(), ...everywhere];
    if (place.view !== 'waterfall') return everywhere;
    return [
      ...cursorActions(rows, place),
      ...everywhere,
      ...zoomActions(shown, rows, place),
      ...chartActions(rows, place, onLegend),
      ...routeActions(shown, place, onDim),
    ];
  }, [card.id, shown, rows, place, onLegend, onDim]);
}

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
  const at = rows.findIndex((row) => row.key === key);
  const step = (by: number): void => {
    const next = at === -1 ? (by > 0 ? by - 1 : 0) : at + by;
    goToRow(rows[Math.min(rows.length - 1, Math.max(0, next))]);
  };
  const row = rows[at];
  return [
    { id: 'next', label: 'Next exchange or lane', keys: place.isOpen ? ['j'] : ['j', 'ArrowDown'], run: () => step(1) },
    {
      id: 'previous',
      label: 'Previous exchange or lane',
      keys: place.isOpen ? ['k'] : ['k', 'ArrowUp'],
      run: () => step(-1),
    },
    { id: 'number', label: 'Go to an exchange by its number', keys: ['#', 'Shift+N'], run: askNumber },
    { id: 'first', label: 'First exchange', keys: ['Home'], run: () => goToRow(rows[0]) },
    { id: 'last', label: 'Last exchange', keys: ['End'], run: () => goToRow(rows.at(-1)) },
    {
      id: 'open',
      label: 'Open the dossier of the current exchange, or fold or unfold the current lane',
      keys: ['Enter'],
      run: () =>
        row?.type === 'lane' ? turnLane(row.key) : place.exchange === undefined ? undefined : goTo({ isOpen: true }),
    },
  ];
}

function exchangeActions(captureId: string, place: Place): Action[] {
  const { exchange, isOpen } = place;
  const whenCurrent = (run: (index: number) => void) => (): void => {
    if (exchange !== undefined) run(exchange);
  };
  const sections = isOpen
    ? SECTIONS.map(
        (title, at): Action => ({
          id: `section-${at + 1}`,
          label: `Dossier: go to ${title.toLowerCase()}`,
          keys: [String(at + 1)],
          run: () => showSection(at + 1),
        }),
      )
    : [];
  return [
    ...(isOpen
      ? [
          {
            id: 'close',
            label: 'Close the dossier',
            keys: ['Escape'],
            run: () => goTo({ isOpen: false, hit: undefined }),
          },
        ]
      : []),
    {
      id: 'curl',
      label: 'Copy the curl command',
      keys: ['c'],
      run: whenCurrent((index) => copyCurl(captureId, index, 'faithful')),
    },
    {
      id: 'curl-lean',
      label: 'Copy the curl command without what only browsers add',
      keys: ['Shift+C'],
      run: whenCurrent((index) => copyCurl(captureId, index, 'lean')),
    },
    {
      id: 'draft',
      label: 'Make a draft of the current exchange',
      keys: ['d'],
      run: whenCurrent(async (index) => (await import('../drafts/open-draft')).openDraft(captureId, index)),
    },
    { id: 'copy-link', label: 'Copy a link to this place', keys: ['i'], run: copyLink },
    ...(isOpen
      ? [
          { id: 'raw-body', label: 'Dossier: the raw body and back', keys: ['b'], run: press('body-raw') },
          { id: 'raw-payload', label: 'Dossier: the raw payload and back', keys: ['p'], run: press('payload-raw') },
        ]
      : []),
    ...sections,
  ];
}

const focusOn = (id: string) => (): void => document.getElementById(id)?.focus();

const press = (id: string) => (): void => document.getElementById(id)?.click();

/** What stands on the work sheet is pressed by key. */
function draftActions(): Action[] {
  return [
    { id: 'draft-copy', label: 'Copy what the draft comes to', keys: ['y'], run: press('draft-copy') },
    { id: 'draft-target', label: 'Choose what the draft is turned into', keys: ['t'], run: focusOn('draft-target') },
    {
      id: 'draft-loop',
      label: 'Choose what the code does beyond one request',
      keys: ['o'],
      run: focusOn('draft-loop'),
    },
    { id: 'draft-undo', label: 'Undo the last change of the draft', keys: ['u'], run: press('draft-undo') },
    ...Array.from({ length: MOST_FAVOURITES }, (_, at) => ({
      id: `favourite-${at + 1}`,
      label: `Turn the draft into favourite ${at + 1}`,
      keys: [String(at + 1)],
      run: press(`favourite-${at + 1}`),
    })),
  ];
}
const MOST_FAVOURITES = 9;

/** Hits are buttons: walking over them moves the focus. */
function hitActions(): Action[] {
  const step = (by: number) => (): void => {
    const hits = [...document.querySelectorAll<HTMLElement>('[data-hit]')];
    const at = hits.indexOf(document.activeElement as HTMLElement);
    const next = hits[at === -1 ? (by > 0 ? 0 : hits.length - 1) : Math.min(hits.length - 1, Math.max(0, at + by))];
    next?.focus();
    next?.scrollIntoView({ block: 'nearest' });
  };
  return [
    { id: 'next-hit', label: 'Next hit', keys: ['j', 'ArrowDown'], run: step(1) },
    { id: 'previous-hit', label: 'Previous hit', keys: ['k', 'ArrowUp'], run: step(-1) },
  ];
}

const NOISE_KEYS: readonly (readonly [Noise, string, string])[] = [
  ['extension', 'e', 'traffic of browser extensions'],
  ['report', 'o', 'reports'],
  ['third', 't', 'third parties'],
];

function siftActions(shown: Shown, place: Place): Action[] {
  const row = shown.placed.find((one) => one.row.index === place.exchange)?.row;
  return [
    { id: 'sift', label: 'Sift: narrow every view', keys: ['/'], run: focusOn('sift') },
    ...NOISE_KEYS.map(
      ([noise, key, words]): Action => ({
        id: `hide-${noise}`,
        label: `${place.hidden.includes(noise) ? 'Show' : 'Hide'} ${words}`,
        keys: [key],
        run: () =>
          goTo({
            hidden: place.hidden.includes(noise)
              ? place.hidden.filter((one) => one !== noise)
              : [...place.hidden, noise],
          }),
      }),
    ),
    ...(row === undefined
      ? []
      : [
          {
            id: 'same-host',
            label: `Sift by the host ${row.host}`,
            keys: [],
            run: () => siftBy(termOf({ name: 'host' }, row.host)),
          },
          {
            id: 'same-endpoint',
            label: 'Sift by the endpoint of the current exchange',
            keys: ['s'],
            run: () => siftBy(termOf({ name: 'endpoint' }, row.endpoint)),
          },
        ]),
    {
      id: 'find',
      label: 'Find in everything',
      keys: ['f'],
      run: () => {
        if (place.view === 'find') {
          focusOn('find')();
          return;
        }
        holdTyping();
        goTo({ view: 'find', isOpen: false });
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
  const row = rows.find((one) => one.key === key);
  const chosen = row === undefined ? [] : row.type === 'lane' ? row.members : [row.placed];
  const middle = (window.fromMs + window.toMs) / 2;
  const zoom = (factor: number) => (): void => goTo({ window: zoomAbout(window, middle, factor, whole) });
  const zoomTo = (stretches: typeof chosen) => (): void => {
    const next = windowOver(stretches, whole);
    if (stretches.length > 0) goTo({ window: next });
  };
  const round = (ms: number): number => Math.round(ms * 10) / 10;
  return [
    { id: 'zoom-selection', label: 'Zoom to the current exchange or lane', keys: ['z'], run: zoomTo(chosen) },
    { id: 'zoom-sift', label: 'Zoom to what the sift lets through', keys: ['Shift+Z'], run: zoomTo([...shown.placed]) },
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
            id: 'sift-window',
            label: 'Sift by what was under way in the part shown',
            keys: ['w'],
            run: () => siftBy(termFrom(`end >= ${round(window.fromMs)} ms and start <= ${round(window.toMs)} ms`)),
          },
        ]),
  ];
}

/** Walking the route: to the leg after the strip under the cursor, or the one before. */
function routeActions({ legs }: Shown, place: Place, onDim: () => void): Action[] {
  const onRoute = legs.flatMap((leg) => (leg.type === 'exchange' ? leg.index : []));
  const step = (by: 1 | -1) => (): void => {
    const at = onRoute.indexOf(place.exchange as ExchangeIndex);
    const next = onRoute[at === -1 ? (by === 1 ? 0 : onRoute.length - 1) : at + by];
    if (next !== undefined) goTo({ exchange: next, lane: undefined, hit: undefined });
  };
  return [
    { id: 'route-next', label: 'Follow the route to its next leg', keys: ['r'], run: step(1) },
    { id: 'route-previous', label: 'Follow the route back', keys: ['Shift+R'], run: step(-1) },
    { id: 'route-dim', label: 'Dim what is off the route, or show it again', keys: ['h'], run: onDim },
  ];
}

function chartActions(rows: readonly ChartRow[], place: Place, onLegend: () => void): Action[] {
  const turnAll = (isFolded: boolean) => (): void => {
    const turn = rows.flatMap((row) => (row.type === 'lane' && row.isFolded !== isFolded ? row.key : []));
    const kept = place.turned.filter((key) => !turn.includes(key));
    goTo({ turned: [...kept, ...turn.filter((key) => !place.turned.includes(key))] });
  };
  return [
    { id: 'legend', label: 'How to read the waterfall', keys: ['l'], run: onLegend },
    { id: 'arrange', label: 'Choose the order of the strips', keys: ['a'], run: focusOn('order') },
    { id: 'lanes', label: 'Choose the lanes', keys: ['n'], run: focusOn('lanes') },
    { id: 'measure', label: 'Choose the measure at the right edge', keys: ['v'], run: focusOn('measure') },
    {
      id: 'together',
      label: place.isGrouped ? 'Show repeated calls one by one' : 'Fold repeated calls to an endpoint together',
      keys: ['y'],
      run: () => goTo({ isGrouped: !place.isGrouped, turned: [], lane: undefined }),
    },
    { id: 'fold-all', label: 'Fold all lanes', keys: ['['], run: turnAll(true) },
    { id: 'unfold-all', label: 'Unfold all lanes', keys: [']'], run: turnAll(false) },
    { id: 'take-away', label: 'Take away: the chart or the exchanges as a file', keys: ['x'], run: press('take-away') },
  ];
}
