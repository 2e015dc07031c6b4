import { atom } from 'nanostores';

/** The zone in which instants are shown. */
export type Zone = 'recorded' | 'utc' | 'machine';
export const ZONES = ['recorded', 'utc', 'machine'] as const satisfies readonly Zone[];

/** The views of a capture, in the order of the rail; the last is a page of its own too. Each has its row in views.tsx. */
export const CAPTURE_VIEWS = [
  'brief',
  'waterfall',
  'find',
  'endpoints',
  'drafts',
  'rehearsal',
  'handoff',
  'reference',
] as const;
export type CaptureView = (typeof CAPTURE_VIEWS)[number];
export type View = 'shelf' | 'compare' | CaptureView;

/** True of a view that an address of a capture can name. */
export const isOfCapture = (view: string): view is CaptureView => CAPTURE_VIEWS.some((known) => known === view);

/** What can be hidden with one key: traffic of extensions, reports, third parties. */
export const NOISES = ['extension', 'report', 'third'] as const;
export type Noise = (typeof NOISES)[number];

/** A stretch of time in ms since the page's start; `toMs` is greater. */
export interface TimeWindow {
  readonly fromMs: number;
  readonly toMs: number;
}

/** What the address holds: it brings all of this back. */
export interface Place {
  readonly view: View;
  /** Id of the page that is looked at; absent for all of them. */
  readonly page: string | undefined;
  /** Number of the exchange under the cursor. */
  readonly exchange: number | undefined;
  /** Whether its dossier is open. */
  readonly isOpen: boolean;
  /** Name of the lane under the cursor, where it is on none of the exchanges. */
  readonly lane: string | undefined;
  readonly zone: Zone;
  /** Where the route leads, as it is asked for; absent for the load. */
  readonly to: string | undefined;
  /** The filter as it was typed. */
  readonly filter: string;
  readonly hidden: readonly Noise[];
  /** What of the load the chart shows; absent for all of it. */
  readonly window: TimeWindow | undefined;
  /** By what strips are put into lanes, and by which measure the right edge tells of them. */
  readonly lanes: string | undefined;
  readonly measure: string | undefined;
  /** Whether repeated calls to an endpoint are folded together. */
  readonly isGrouped: boolean;
  /** Names of the lanes that are not as they would be: open ones that were folded, folded ones that were opened. */
  readonly turned: readonly string[];
  /** The words searched for on the shelf, or in everything; `mode` is how, letter by letter. */
  readonly search: string;
  readonly mode: string;
  /** What is looked up in the reference beside a capture. */
  readonly term: string;
  /** The name of an order: of cards on the shelf, of strips in the chart. */
  readonly order: string | undefined;
  /** The endpoint that is opened. */
  readonly endpoint: string | undefined;
  /** The place of the hit in the dossier that was jumped to: "response body 120". */
  readonly hit: string | undefined;
  /** Number of the exchange that the open dossier's is compared with. */
  readonly against: number | undefined;
  /** Id of the draft that is worked on. */
  readonly draft: string | undefined;
  /** Number of the trial whose dossier is open. */
  readonly trial: number | undefined;
  /** The run, or the rehearsal, whose request that is; absent where it is a trial of its own. */
  readonly run: string | undefined;
  /** The loads of each side that are chosen to be compared, as `load-name.ts` writes them. */
  readonly sideA: readonly string[];
  readonly sideB: readonly string[];
  /** Pairs of hosts that stand for one: "staging.cumbrera.example=www.cumbrera.example". */
  readonly map: readonly string[];
  /** Two exchanges from anywhere that are compared, and the pair of exchanges under the cursor of a comparison. */
  readonly one: string | undefined;
  readonly other: string | undefined;
  readonly pair: string | undefined;
  /** By what the difference of two loads is split. */
  readonly split: string | undefined;
  /** What is handed off, and which exchanges of it leave. */
  readonly what: string | undefined;
  readonly scope: string | undefined;
}

const ADDRESS = /^\/c\/([^/]+)\/([a-z]+)$/;

/** The view that a path is of; the shelf where it is none of a capture's. */
function viewOf(pathname: string): View {
  if (pathname === '/reference') return 'reference';
  if (pathname === '/compare') return 'compare';
  const view = ADDRESS.exec(pathname)?.[2] ?? '';
  return isOfCapture(view) ? view : 'shelf';
}

export function readPlace(search: string, pathname = '/'): Place {
  const query = new URLSearchParams(search);
  const text = (name: string): string | undefined => query.get(name) ?? undefined;
  const exchange = readNumber(query.get('exchange'));
  const zone = query.get('zone');
  const isNumber = exchange !== undefined;
  const hidden = (query.get('hide') ?? '').split(' ');
  return {
    view: viewOf(pathname),
    page: text('page'),
    exchange,
    isOpen: (isNumber || query.has('pair')) && query.has('dossier'),
    lane: isNumber ? undefined : text('lane'),
    zone: ZONES.find((known) => known === zone) ?? 'recorded',
    to: text('to'),
    // What older addresses say.
    filter: query.get('filter') ?? query.get('sift') ?? '',
    hidden: NOISES.filter((noise) => hidden.includes(noise)),
    window: readWindow(query.get('window')),
    lanes: text('lanes'),
    measure: text('measure'),
    isGrouped: query.has('together'),
    turned: query.getAll('turned'),
    search: query.get('search') ?? '',
    mode: query.get('mode') ?? '',
    term: query.get('term') ?? '',
    order: text('order'),
    endpoint: text('endpoint'),
    hit: text('hit'),
    against: readNumber(query.get('against')),
    draft: text('draft'),
    trial: readNumber(query.get('trial')),
    run: query.get('run') ?? undefined,
    sideA: query.getAll('a'),
    sideB: query.getAll('b'),
    map: query.getAll('map'),
    one: text('one'),
    other: text('other'),
    pair: text('pair'),
    split: text('split'),
    what: text('what'),
    scope: text('scope'),
  };
}

const readNumber = (text: string | null): number | undefined =>
  text !== null && /^\d{1,9}$/.test(text) ? Number(text) : undefined;

/** "120.5_860": from and to in ms. */
function readWindow(text: string | null): TimeWindow | undefined {
  const match = /^(-?\d{1,9}(?:\.\d{1,3})?)_(-?\d{1,9}(?:\.\d{1,3})?)$/.exec(text ?? '');
  const [fromMs, toMs] = [Number(match?.[1]), Number(match?.[2])];
  return toMs > fromMs ? { fromMs, toMs } : undefined;
}

const roundMs = (ms: number): string => String(Math.round(ms * 1000) / 1000);

export function writePlace(place: Place): string {
  const query = new URLSearchParams();
  const { window } = place;
  const set = (name: string, value: string | undefined): void => {
    if (value !== undefined && value !== '') query.set(name, value);
  };
  set('page', place.page);
  set('to', place.to);
  set('filter', place.filter);
  set('hide', place.hidden.join(' '));
  set('window', window === undefined ? undefined : `${roundMs(window.fromMs)}_${roundMs(window.toMs)}`);
  set('lanes', place.lanes);
  set('measure', place.measure);
  if (place.isGrouped) query.set('together', '');
  for (const name of place.turned) query.append('turned', name);
  set('exchange', place.exchange?.toString());
  set('lane', place.lane);
  if (place.isOpen) query.set('dossier', '');
  if (place.zone !== 'recorded') query.set('zone', place.zone);
  set('search', place.search);
  set('mode', place.mode);
  set('term', place.term);
  set('order', place.order);
  set('endpoint', place.endpoint);
  set('hit', place.hit);
  set('against', place.against?.toString());
  set('draft', place.draft);
  set('trial', place.trial?.toString());
  set('run', place.run);
  for (const load of place.sideA) query.append('a', load);
  for (const load of place.sideB) query.append('b', load);
  for (const hosts of place.map) query.append('map', hosts);
  // Empty ones stand too: there is still to be chosen.
  if (place.one !== undefined) query.set('one', place.one);
  if (place.other !== undefined) query.set('other', place.other);
  set('pair', place.pair);
  set('split', place.split);
  set('what', place.what);
  set('scope', place.scope);
  const text = query.toString().replace(/=(?=&|$)/g, '');
  return text === '' ? '' : `?${text}`;
}

const here = (): Place =>
  typeof location === 'undefined' ? readPlace('') : readPlace(location.search, location.pathname);

export const $place = atom<Place>(here());

/** Changes that Back undoes; all others take the current entry of the history along. */
const UNDONE_BY_BACK = [
  'view',
  'isOpen',
  'page',
  'to',
  'filter',
  'endpoint',
  'draft',
  'trial',
  'run',
  'against',
  'lanes',
  'hidden',
  'sideA',
  'sideB',
  'map',
  'one',
  'other',
  'what',
  'scope',
] as const satisfies (keyof Place)[];

/** Browsers bear no more than some twenty changes of the address a second; zooming makes sixty. */
const ADDRESS_EVERY_MS = 60;
/** Zooming and moving go on for a while: the address is written when they rest. */
const REST_MS = 200;
/** After a browser has refused one. */
const REFUSED_MS = 2000;
let pending: ReturnType<typeof setTimeout> | undefined;
let writtenAt = Number.NEGATIVE_INFINITY;

/** Goes to another place of the same capture, or of the shelf. */
export function goTo(change: Partial<Place>): void {
  const before = $place.get();
  const place = { ...before, ...change };
  $place.set(place);
  if (UNDONE_BY_BACK.some((name) => before[name] !== place[name])) {
    // The entry that is left must be as it was left.
    if (pending !== undefined) writeAddress(before);
    history.pushState(null, '', addressOf(place));
  } else if (before.window !== place.window) {
    writeLater(REST_MS);
  } else if (pending === undefined) {
    const sinceMs = performance.now() - writtenAt;
    if (sinceMs >= ADDRESS_EVERY_MS) writeAddress(place);
    else writeLater(ADDRESS_EVERY_MS - sinceMs);
  }
}

function writeLater(ms: number): void {
  clearTimeout(pending);
  pending = setTimeout(() => writeAddress($place.get()), ms);
}

function writeAddress(place: Place): void {
  clearTimeout(pending);
  pending = undefined;
  writtenAt = performance.now();
  try {
    history.replaceState(null, '', addressOf(place));
  } catch {
    // Too many in too short a time: the last one is written when the browser has calmed down.
    writeLater(REFUSED_MS);
  }
}

/** The address of a place of the capture that is open. */
export function addressOf(place: Place): string {
  const capture = ADDRESS.exec(location.pathname)?.[1];
  const own = place.view === 'reference' || place.view === 'compare' ? `/${place.view}` : '/';
  const isOwn = capture === undefined || place.view === 'shelf';
  return (isOwn ? own : `/c/${capture}/${place.view}`) + writePlace(place);
}

/** Follows Back and Forward. Returns the way to stop. */
export function followHistory(): () => void {
  const onPop = (): void => {
    clearTimeout(pending);
    pending = undefined;
    $place.set(here());
  };
  const onLeave = (): void => {
    if (pending !== undefined) writeAddress($place.get());
  };
  addEventListener('popstate', onPop);
  addEventListener('pagehide', onLeave);
  return () => {
    removeEventListener('popstate', onPop);
    removeEventListener('pagehide', onLeave);
  };
}
