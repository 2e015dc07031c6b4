import { groupBy } from '../collections';
import { type Completeness, type Page, sparesTheNetwork } from '../model';
import { formatCount, formatPlural, formatShare, formatSpan, formatZone } from '../wording';
import { judgeClocks } from './clock';
import type { ExchangeRow } from './exchange-row';
import type { ExchangeFacts } from './facts';
import { ofSite } from './route-stop';

export type ConditionId =
  | 'empty'
  | 'cut-off'
  | 'archive-damaged'
  | 'damaged'
  | 'parts-lost'
  | 'mended'
  | 'no-starts'
  | 'another-follows'
  | 'more-behind'
  | 'no-timings'
  | 'page-clock-differs'
  | 'no-bodies'
  | 'some-bodies'
  | 'late-start'
  | 'credentials-removed'
  | 'clocks-differ'
  | 'no-page'
  | 'several-pages'
  | 'cache-bypassed'
  | 'cache-in-use'
  | 'worker-at-work'
  | 'extension-traffic'
  | 'repaired';

/** One plain sentence on the capture's own condition, and what to do about it. */
export interface Condition {
  readonly id: ConditionId;
  readonly sentence: string;
  readonly advice: string;
  /** Numbers of the exchanges that it is about, at most `MOST_ABOUT`; absent where it is about the capture as a whole. */
  readonly about?: readonly number[];
}

const MOST_ABOUT = 500;

/** Date headers have whole seconds: parts of one, and seconds of hours, would only seem known. */
function clockWords(offsetMs: number): string {
  const ms = Math.abs(offsetMs);
  const unit = ms < SECONDS_TELL_MS ? 1000 : 60_000;
  return formatSpan(Math.round(ms / unit) * unit);
}

/** A clock that is off by whole quarters of an hour keeps another zone's time, most likely. */
function zoneWords(offsetMs: number): string {
  const quarters = Math.round(offsetMs / QUARTER_HOUR_MS);
  const isZone = ZONE_QUARTERS.has(quarters) && Math.abs(offsetMs - quarters * QUARTER_HOUR_MS) <= ZONE_TOLERANCE_MS;
  return isZone ? `, which matches an offset of ${formatZone(quarters * 15)}` : '';
}
/** The offsets from UTC that clocks keep somewhere, in quarters of an hour: whole hours, and those between. */
const ZONE_QUARTERS: ReadonlySet<number> = new Set([
  ...Array.from({ length: 27 }, (_, at) => (at - 12) * 4).filter((quarters) => quarters !== 0),
  ...[-9.5, -3.5, -2.5, 3.5, 4.5, 5.5, 5.75, 6.5, 8.75, 9.5, 10.5, 12.75, 13.75].map((hours) => hours * 4),
]);
const ZONE_TOLERANCE_MS = 60_000;

const about = (those: readonly { readonly index: number }[]): Pick<Condition, 'about'> => ({
  about: those.slice(0, MOST_ABOUT).map(({ index }) => index),
});

export interface ConditionClues {
  readonly facts: readonly ExchangeFacts[];
  readonly rows: readonly ExchangeRow[];
  readonly pages: readonly Page[];
  /** Pages were taken apart into navigations that the recorder did not name. */
  readonly inferredPages: boolean;
  readonly completeness: Completeness;
}

type Check = (clues: ConditionClues) => Omit<Condition, 'id'> | undefined;

/** Below this share of answered exchanges with a body, bodies count as recorded only for some. */
const MOST_BODIES_SHARE = 0.9;
/** From this share of requests that pass caches by, the recording counts as made with the cache off. */
const MOST_REQUESTS_SHARE = 0.5;
/** A page may ask its own cache for the same image twice; above this share the cache was filled before the recording. */
const USED_CACHE_SHARE = 0.05;
const SECONDS_TELL_MS = 10 * 60_000;
const QUARTER_HOUR_MS = 15 * 60_000;

const SHOWN_PARTS = 4;
const listParts = (parts: readonly string[]): string =>
  parts.length <= SHOWN_PARTS
    ? parts.join(', ')
    : `${parts.slice(0, SHOWN_PARTS).join(', ')} and ${parts.length - SHOWN_PARTS} more`;

/** Every check of a capture's condition, gravest first. */
const CHECKS = {
  empty: ({ facts, completeness }) =>
    facts.length > 0 || completeness.type !== 'whole'
      ? undefined
      : {
          sentence: 'The capture contains no exchanges: its log was empty when it was saved.',
          advice: 'Start recording first, load the page, and save before anything clears the log.',
        },
  'cut-off': ({ completeness, facts }) =>
    completeness.type !== 'cut'
      ? undefined
      : {
          sentence: `The file is cut off at byte ${formatCount(completeness.atByte)}; the ${formatPlural(facts.length, 'exchange')} before that were kept.`,
          advice: 'Save it again, or ask whoever sent it to send it once more, compressed.',
        },
  'archive-damaged': ({ completeness: { archive } }) =>
    archive === undefined
      ? undefined
      : {
          sentence:
            archive === 'checksum'
              ? 'The archive that it came in is damaged: its checksum does not fit, so that anything in it may be altered.'
              : 'The archive that it came in is damaged and could be unpacked only in part.',
          advice: 'Ask whoever sent it to pack and send it again.',
        },
  damaged: ({ completeness }) =>
    completeness.type === 'whole' || completeness.damagedEntries === 0
      ? undefined
      : {
          sentence: `The file is damaged in ${formatPlural(completeness.damagedEntries, 'place')}; the affected entries were skipped.`,
          advice: 'Save the capture again if the missing exchanges matter.',
        },
  'parts-lost': ({ completeness: { lostParts = [] } }) =>
    lostParts.length === 0
      ? undefined
      : {
          sentence: `What the file says of ${listParts(lostParts)} is damaged and was left out.`,
          advice: 'Save the capture again if that matters; the exchanges are not touched by it.',
        },
  mended: ({ completeness: { mendedEntries = 0, mendedParts = [] } }) =>
    mendedEntries === 0 && mendedParts.length === 0
      ? undefined
      : {
          sentence: `${[...(mendedEntries === 0 ? [] : [formatPlural(mendedEntries, 'exchange')]), ...(mendedParts.length === 0 ? [] : [listParts(mendedParts)])].join(' and ')} had line breaks or numbers in the file that JSON does not allow; they were read all the same.`,
          advice: 'Nothing is missing; other programs may refuse the file. Saving it from here gives valid JSON.',
        },
  'no-starts': ({ facts }) =>
    facts.length === 0 || facts.some((fact) => fact.startedAt !== undefined)
      ? undefined
      : {
          sentence: 'No exchange has a start that can be read: nothing can be said about the order of the load.',
          advice: 'HAR writes starts as "2026-10-03T09:14:07.000Z"; each exchange notes what is there instead.',
        },
  'another-follows': ({ completeness: { behind } }) =>
    behind?.what !== 'capture'
      ? undefined
      : {
          sentence: `Another capture follows in the same file, from byte ${formatCount(behind.atByte)} on.`,
          advice: 'On the shelf each becomes a capture of its own; on the command line only the first is read.',
        },
  'more-behind': ({ completeness: { behind } }) =>
    behind?.what !== 'other'
      ? undefined
      : {
          sentence: `The capture ends at byte ${formatCount(behind.atByte)}, and is followed by something else.`,
          advice: 'Nothing of the capture is missing; the rest was not read.',
        },
  'no-timings': ({ facts }) =>
    facts.length === 0 || facts.some((fact) => fact.hasTimings)
      ? undefined
      : {
          sentence: 'No timing phases were recorded, so the time cannot be broken down.',
          advice: 'Record again with a recorder that writes timings.',
        },
  'page-clock-differs': ({ rows, pages }) => {
    const started = groupBy(
      rows.filter(({ startMs }) => startMs !== undefined),
      ({ pageId }) => pageId,
    );
    const early = pages.flatMap((page) => {
      const own = started.get(page.id) ?? [];
      const ended = own.map(({ startMs = 0, timeMs = 0 }) => startMs + timeMs);
      const last = ended.reduce((latest, ms) => Math.max(latest, ms), Number.NEGATIVE_INFINITY);
      return own.length > 0 && last < 0 ? own : [];
    });
    const [first] = early;
    if (first === undefined) return undefined;
    return {
      sentence: `By the record all exchanges of ${early.every(({ pageId }) => pageId === first.pageId) ? 'a page' : 'its pages'} had ended before the page began: their clocks differ, and what the load waited for cannot be told.`,
      advice: 'Record again; what is said of the load as a whole does not hold.',
      ...about(early),
    };
  },
  'no-bodies': ({ facts }) => {
    const { expected, recorded } = countBodies(facts);
    if (expected === 0 || recorded > 0) return undefined;
    return {
      sentence: 'No response body was recorded: response contents cannot be shown.',
      advice: 'Save with content where the recorder offers it.',
    };
  },
  'some-bodies': ({ facts }) => {
    const { expected, recorded } = countBodies(facts);
    if (recorded === 0 || recorded / expected >= MOST_BODIES_SHARE) return undefined;
    return {
      sentence: `Bodies were recorded for only ${formatCount(recorded)} of ${formatCount(expected)} responses that had one.`,
      advice: 'Save with content, before the browser drops the older ones.',
      ...about(withBody(facts).filter(({ hasBody }) => !hasBody)),
    };
  },
  'late-start': ({ rows, pages }) => {
    const first = rows.reduce<ExchangeRow | undefined>((earliest, row) => startsBefore(row, earliest), undefined);
    if (first === undefined || pages.length === 0 || first.kind === 'document') return undefined;
    return {
      sentence: `Its first exchange is not a document but of kind ${first.kind}: the page's load probably began before the recording.`,
      advice: 'Start recording first, then load the page.',
      ...about([first]),
    };
  },
  'credentials-removed': ({ facts, rows }) => {
    // Browsers keep cookies of others out of a page, or from going back to them.
    const own = new Set(rows.flatMap(({ index, party }) => (party === 'first' ? index : [])));
    const setter = facts.find((fact) => fact.setsCookie && own.has(fact.index));
    const later = facts.filter((fact) => fact.index > (setter?.index ?? 0) && fact.host === setter?.host);
    if (setter === undefined || later.length === 0 || facts.some((fact) => fact.hasCredentials)) return undefined;
    return {
      sentence: `${setter.host} set a cookie, and no later request carries one: credentials were probably removed.`,
      advice: 'Generated commands will lack them; export with sensitive data if you are allowed to.',
    };
  },
  'clocks-differ': ({ facts }) => {
    const { recorderMs, off, isAlone } = judgeClocks(
      facts.map(({ host, clockOffsetMs: offsetMs }) => ({ host, offsetMs })),
    );
    const [first] = off;
    const advice = 'Take it into account when matching server logs and computing cache lifetimes.';
    if (recorderMs !== undefined) {
      const isBehind = recorderMs > 0;
      return {
        sentence: `The recording computer's clock is ${clockWords(recorderMs)} ${isBehind ? 'behind' : 'ahead of'} all the servers'${zoneWords(-recorderMs)}.`,
        advice,
      };
    }
    if (first === undefined) return undefined;
    const { host, offsetMs } = first;
    const hostsOff = new Set(off.map((one) => one.host));
    const which = isAlone ? ', and one server alone cannot tell which of them is wrong' : '';
    const others = off.length > 1 ? `, and that of ${formatPlural(off.length - 1, 'more host')} is off, too` : '';
    return {
      sentence: `The clock of ${host} is ${clockWords(offsetMs)} ${offsetMs > 0 ? 'ahead of' : 'behind'} the recording computer's${zoneWords(offsetMs)}${which}${others}.`,
      advice,
      ...about(facts.filter((fact) => fact.clockOffsetMs !== undefined && hostsOff.has(fact.host))),
    };
  },
  'no-page': ({ pages, facts }) =>
    pages.length > 0 || facts.length === 0
      ? undefined
      : {
          sentence: 'No page in the capture, so DOM ready and loaded are unknown.',
          advice: 'Record a whole page load, from before its navigation, to have them.',
        },
  'several-pages': ({ pages, inferredPages }) =>
    pages.length < 2
      ? undefined
      : {
          sentence: inferredPages
            ? `The capture contains ${formatCount(pages.length)} navigations; their boundaries were inferred from its documents.`
            : `The capture contains ${formatCount(pages.length)} pages.`,
          advice: 'Choose the page at the top; each has its own clock.',
        },
  'cache-bypassed': ({ facts }) => {
    const asking = askedByPages(facts);
    const bypassing = asking.filter((fact) => fact.bypassesCache).length;
    if (asking.length === 0 || bypassing / asking.length <= MOST_REQUESTS_SHARE) return undefined;
    return {
      sentence: `The cache was bypassed (disabled or reloaded): ${formatShare(bypassing / asking.length)} of the requests asked for that.`,
      advice: 'Record once more with the cache on to see what a returning visitor gets.',
      ...about(asking.filter((fact) => fact.bypassesCache)),
    };
  },
  'cache-in-use': ({ rows }) => {
    const spared = fromCache(rows);
    if (spared.length / Math.max(1, rows.length) <= USED_CACHE_SHARE) return undefined;
    return {
      sentence: `The browser's cache was used for ${formatPlural(spared.length, 'exchange')}.`,
      advice: 'Record in a fresh profile to see what a first visitor gets.',
      ...about(spared),
    };
  },
  'worker-at-work': ({ rows }) => {
    const answered = rows.filter(({ source }) => source === 'worker');
    if (answered.length === 0) return undefined;
    const fetched = answered.filter(({ fetchedAs }) => fetchedAs !== undefined).length;
    const through =
      fetched === 0
        ? ''
        : `, and fetched ${fetched === answered.length ? 'all' : formatCount(fetched)} of them over the network for that`;
    return {
      sentence: `A service worker served ${formatPlural(answered.length, 'exchange')}${through}.`,
      advice:
        'Record with the service worker bypassed to see what a first visitor gets, and what the servers do themselves.',
      ...about(answered),
    };
  },
  'extension-traffic': ({ rows }) => {
    const own = new Set(ofSite(rows));
    const foreign = rows.filter((row) => !own.has(row));
    if (foreign.length === 0) return undefined;
    return {
      sentence: `${formatPlural(foreign.length, 'exchange')} ${foreign.length === 1 ? 'has' : 'have'} the address of a browser extension: what it holds is none of the site’s.`,
      advice: 'Record in a browser profile without extensions to have only the page.',
      ...about(foreign),
    };
  },
  repaired: ({ facts }) => {
    const odd = facts.filter((fact) => fact.noteCount > 0);
    if (odd.length === 0) return undefined;
    return {
      sentence: `${formatPlural(odd.length, 'exchange')} ${odd.length === 1 ? 'has' : 'have'} inconsistent data; each has a note on what, and how it was read.`,
      advice: 'See the notes in their dossiers. Saving the capture gives back the original.',
      ...about(odd),
    };
  },
} satisfies Record<ConditionId, Check>;

/** The condition report of a capture, gravest first; empty for a capture that can answer every question. */
export function reportCondition(clues: ConditionClues): Condition[] {
  return Object.entries(CHECKS).flatMap(([id, check]): Condition[] => {
    const found = (check as Check)(clues);
    return found === undefined ? [] : [{ id: id as ConditionId, ...found }];
  });
}

/** A browser asks for preflights by itself, and never from its cache. */
const askedByPages = (facts: readonly ExchangeFacts[]): ExchangeFacts[] =>
  facts.filter((fact) => fact.kind !== 'preflight');

const fromCache = (rows: readonly ExchangeRow[]): ExchangeRow[] =>
  rows.filter(({ source }) => sparesTheNetwork(source) && source !== 'worker');

/** What of the cache was used, where that is too little to be remarked on. */
function tellCacheUse({ facts, rows }: ConditionClues): string {
  const asking = askedByPages(facts);
  const bypassing = asking.filter((fact) => fact.bypassesCache).length;
  const spared = fromCache(rows).length;
  return bypassing + spared === 0
    ? 'No request asked to bypass the cache, and no response came from it: this is what a first visit looks like.'
    : `${formatCount(bypassing)} of ${formatPlural(asking.length, 'request')} asked to bypass the cache, and ${formatPlural(spared, 'response')} came from it.`;
}

const withBody = (facts: readonly ExchangeFacts[]): ExchangeFacts[] =>
  facts.filter((fact) => fact.status !== undefined && (fact.bodyBytes ?? 0) > 0);

function countBodies(facts: readonly ExchangeFacts[]): { readonly expected: number; readonly recorded: number } {
  const expected = withBody(facts);
  return { expected: expected.length, recorded: expected.filter((fact) => fact.hasBody).length };
}

/** What was looked at and is as it should be, in sentences: a reader must be able to tell checked from not checked. */
export function reportFine(clues: ConditionClues, condition: readonly Condition[]): string[] {
  const { facts, completeness } = clues;
  if (facts.length === 0) return [];
  const bad = new Set(condition.map(({ id }) => id));
  const { expected, recorded } = countBodies(facts);
  const timed = facts.filter((fact) => fact.hasTimings).length;
  const isWhole = completeness.type === 'whole' && completeness.archive === undefined;
  const fine: readonly (readonly [boolean, string])[] = [
    [isWhole, 'The file is whole: no exchange is cut off or damaged.'],
    [
      expected > 0 && !bad.has('no-bodies') && !bad.has('some-bodies'),
      `Bodies were recorded for ${formatCount(recorded)} of ${formatCount(expected)} responses that had one.`,
    ],
    [timed > 0, `Timings were recorded for ${formatCount(timed)} of ${formatPlural(facts.length, 'exchange')}.`],
    [!bad.has('cache-bypassed') && !bad.has('cache-in-use'), tellCacheUse(clues)],
    [
      facts.some((fact) => fact.clockOffsetMs !== undefined) && !bad.has('clocks-differ'),
      "The servers' clocks agree with the recorder's within two seconds.",
    ],
    [
      !bad.has('late-start') && !bad.has('no-page'),
      'The first exchange is a document: the recording began with a page.',
    ],
    [!bad.has('extension-traffic'), 'No exchange has the address of a browser extension.'],
  ];
  return fine.flatMap(([isFine, sentence]) => (isFine ? sentence : []));
}

function startsBefore(row: ExchangeRow, earliest: ExchangeRow | undefined): ExchangeRow | undefined {
  if (row.startedAt === undefined) return earliest;
  return earliest?.startedAt === undefined || row.startedAt < earliest.startedAt ? row : earliest;
}
