import { parseJson, writePath } from '../../json';
import type { Draft } from '../draft';
import type { Loop } from '../loops/loop';
import { placeLoop } from '../loops/parameter';
import type { Expected, Statement, StatementOf } from './statement';

/** A loop as what is done, step by step. */
export function describeLoop(draft: Draft, loop: Loop): Statement[] {
  switch (loop.type) {
    case 'pages':
      return [countPages(draft, loop)];
    case 'follow':
      return [followPages(draft, loop)];
    case 'values':
      return [goThrough(draft, loop)];
    case 'poll':
      return [poll(draft, loop)];
    case 'table': {
      const { list, rows } = loop;
      return [request(draft), { do: 'write-list', list, lacking: noListAt(list), rows }];
    }
    case 'files':
      return [request(draft), { do: 'download', at: loop.at, folder: loop.folder, credentials: credentialsOf(draft) }];
    default:
      return loop satisfies never;
  }
}

type LoopOf<T extends Loop['type']> = Extract<Loop, { readonly type: T }>;

const request = (draft: Draft, reads: Partial<StatementOf<'request'>> = {}): Statement => ({
  do: 'request',
  draft,
  called: '',
  retries: BUSY_TRIES,
  mayFail: false,
  readsJson: true,
  readsText: false,
  stopsAtRedirect: false,
  readsHeaders: false,
  ...reads,
});

function countPages(draft: Draft, loop: LoopOf<'pages'>): Statement {
  const { from, to, step, total, pages, shortEnds, rows, pauseMs } = loop;
  const ends: StatementOf<'enough'>[] = [
    ...(total === undefined ? [] : [{ do: 'enough', of: 'rows', place: total, rows } as const]),
    ...(pages === undefined ? [] : [{ do: 'enough', of: 'pages', place: pages, rows } as const]),
  ];
  const readsHeaders = ends.some(({ place }) => place.in === 'header');
  return {
    ...pagesOf(loop),
    moves: { by: 'counter', from, to, step },
    body: [
      request(placeLoop(draft, loop).draft, { readsHeaders }),
      { ...gatherOf(loop), endsEmpty: true, endsShort: shortEnds },
      ...ends,
      { do: 'pause', pauseMs },
    ],
  };
}

function followPages(draft: Draft, loop: LoopOf<'follow'>): Statement {
  const { next, parameter, pauseMs } = loop;
  const placed = placeLoop(draft, loop);
  return {
    ...pagesOf(loop),
    moves: { by: 'response', first: placed.first },
    body: [
      request(placed.draft, { readsHeaders: next.in === 'link' }),
      // A page may be empty and still name the one behind it.
      { ...gatherOf(loop), endsEmpty: false, endsShort: false },
      {
        do: 'next',
        place: next,
        writing: placed.writing,
        isAddress: parameter === undefined,
        elsewhere: 'The next page is at another site, which is not told the credentials: ',
      },
      { do: 'pause', pauseMs },
    ],
  };
}

function goThrough(draft: Draft, loop: LoopOf<'values'>): Statement {
  const placed = placeLoop(draft, loop);
  return {
    ...pagesOf(loop),
    moves: { by: 'values', values: loop.values.map(placed.write) },
    body: [
      request(placed.draft),
      // A value may have nothing.
      { ...gatherOf(loop), endsEmpty: false, endsShort: false },
      { do: 'pause', pauseMs: loop.pauseMs },
    ],
  };
}

function poll(draft: Draft, { until, most, pauseMs }: LoopOf<'poll'>): Statement {
  const isStatus = until.in === 'status';
  return {
    do: 'tries',
    most,
    inVain: `The condition was not met in ${most} ${most === 1 ? 'try' : 'tries'}.`,
    body: [
      request(draft, isStatus ? { mayFail: true, readsJson: false, retries: 0 } : {}),
      isStatus
        ? { do: 'until-status', status: until.status }
        : { do: 'until', at: until.at, is: expectedOf(until.text) },
      { do: 'pause', pauseMs },
    ],
  };
}

const pagesOf = ({ mostPages, rows }: LoopOf<'pages' | 'follow' | 'values'>) =>
  ({
    do: 'pages',
    most: mostPages,
    stopped: `Stopped after ${mostPages} ${mostPages === 1 ? 'page' : 'pages'}: there may be more.`,
    rows,
  }) as const;

const gatherOf = ({ list, rows }: LoopOf<'pages' | 'follow' | 'values'>) =>
  ({ do: 'gather', list, lacking: noListAt(list), rows }) as const;

/** A loop goes on where a server is busy for a while. */
const BUSY_TRIES = 4;

const credentialsOf = ({ headers }: Draft): string[] =>
  headers.flatMap(({ name, kept, role }) => (kept && role === 'credential' ? [name.toLowerCase()] : []));

const noListAt = (list: Parameters<typeof writePath>[0]): string =>
  `There is no list at ${writePath(list)} in the response.`;

/** What was typed to wait for: "< 30" as a comparison; "true", "0" and "null" as JSON's own and as texts. */
function expectedOf(text: string): Expected {
  const [, comparison, number] = /^\s*(<=|>=|<|>)\s*(-?\d+(?:\.\d+)?)\s*$/.exec(text) ?? [];
  if (comparison !== undefined && number !== undefined)
    return { text, than: { comparison: comparison as NonNullable<Expected['than']>['comparison'], number } };
  const value = parseJson(text);
  return typeof value === 'string' || value === undefined ? { text } : { text, value: value as Expected['value'] & {} };
}
