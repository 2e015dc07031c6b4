import { useStore } from '@nanostores/react';
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { type ExchangeRow, nameExchange, nameHost } from '#core/analysis';
import { groupBy } from '#core/collections';
import { type FindQuery, type FoldedHits, type Form, foldHits, type Hit } from '#core/find';
import type { Kind } from '#core/model';
import type { CaptureCard } from '#core/wire';
import { formatCount, formatPlural } from '#core/wording';
import type { Shown } from '../capture/use-shown';
import { ExportDialog } from '../export/ExportDialog';
import type { ExportTable } from '../export/exported';
import { MarkSign } from '../marks/MarkSign';
import { takeHeldLine } from '../state/actions';
import { $place, goTo } from '../state/address';
import { useOneTabStop } from '../state/focus';
import { writeHit } from '../state/hit';
import { KIND_LETTER } from '../ui/kind';
import { StatusMark, statusWord } from '../ui/status';
import { useActions, useControl } from '../ui/use-actions';
import { hitActions } from './hit-actions';
import { type Finding, useFind } from './use-find';

interface FindViewProps {
  readonly card: CaptureCard;
  readonly shown: Shown;
  readonly rows: readonly ExchangeRow[];
}

/** How to look, as the address keeps it: one letter each. */
const MODES = {
  r: 'regular expression',
  c: 'match case',
  w: 'whole words',
} as const;
type Mode = keyof typeof MODES;
const MODE_LETTERS = Object.keys(MODES) as Mode[];

const FIND_ACTION = { id: 'find', label: 'Find in everything', keys: ['f'] };

/**
 * Search in everything: hits grouped by exchange, each with its place and surroundings.
 * Long because its field, its choices and its hits share the one search that is in the address.
 */
export default function FindView({ card, shown, rows }: FindViewProps) {
  const place = useStore($place);
  const query: FindQuery = useMemo(
    () => ({
      text: place.search,
      isRegex: place.mode.includes('r'),
      matchesCase: place.mode.includes('c'),
      wholeWord: place.mode.includes('w'),
    }),
    [place.search, place.mode],
  );
  const finding = useFind(card.id, query);
  const visible = useMemo(() => new Set<number>(shown.placed.map(({ row }) => row.index)), [shown.placed]);
  const groups = useMemo(
    () => (finding.state === 'idle' ? [] : groupHits(finding.hits, rows, visible)),
    [finding, rows, visible],
  );
  const input = useControl<HTMLInputElement>(FIND_ACTION, 'focus');
  const stops = useOneTabStop<HTMLElement>('[data-hit], [data-fold]', 'none');
  const list = useRef<HTMLElement>(null);
  const takeList = useCallback(
    (element: HTMLElement | null) => {
      list.current = element;
      return stops(element);
    },
    [stops],
  );
  useActions(
    'view',
    useMemo(() => hitActions(() => list.current), []),
  );
  useEffect(() => {
    // What was typed while the view was on its way takes the place of what was looked for before, as it would have here.
    const { line: typed } = takeHeldLine();
    if (typed !== '') goTo({ search: typed });
    input.current?.focus();
    if (typed === '') input.current?.select();
  }, [input]);
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex min-h-12 shrink-0 flex-wrap items-center gap-x-5 gap-y-1 border-line border-b bg-paper px-4">
        <input
          ref={input}
          data-home=""
          type="search"
          value={place.search}
          onChange={({ target }) => goTo({ search: target.value })}
          onKeyDown={(event) => {
            const { key } = event;
            if (key === 'Escape') {
              // Browsers would clear the field, and with it all that was found.
              event.preventDefault();
              list.current?.focus();
            }
            if (key === 'ArrowDown' || key === 'Enter')
              list.current?.querySelector<HTMLElement>('[data-hit], [data-fold]')?.focus();
          }}
          aria-label="Find in URLs, headers, payloads, bodies and messages"
          placeholder="text, id or value to find"
          className="h-8 w-120 max-w-full border border-line bg-sheet px-2.5 font-mono text-[13px]"
        />
        {MODE_LETTERS.map((letter) => (
          <label key={letter} className="flex min-h-6 items-center gap-1.5 text-soft">
            <input
              type="checkbox"
              checked={place.mode.includes(letter)}
              onChange={({ target }) =>
                goTo({
                  mode: MODE_LETTERS.filter((one) => (one === letter ? target.checked : place.mode.includes(one))).join(
                    '',
                  ),
                })
              }
            />
            {MODES[letter]}
          </label>
        ))}
      </div>
      <Outcome finding={finding} groups={groups} of={rows.length} isFiltered={visible.size < rows.length}>
        {groups.length === 0 ? null : (
          <ExportDialog card={card} exchanges={() => groups.map(({ row }) => row)} tables={() => [hitTable(groups)]} />
        )}
      </Outcome>
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <section
        ref={takeList}
        aria-label="Hits"
        tabIndex={0}
        className="min-h-0 flex-1 overflow-y-auto px-4 pb-6 outline-none"
      >
        {finding.state === 'idle' ? <Hint /> : null}
        {groups.map((group) => (
          <HitGroup key={group.row.index} {...group} current={place.isOpen ? place.hit : undefined} />
        ))}
      </section>
    </div>
  );
}

interface Group {
  readonly row: ExchangeRow;
  readonly hits: readonly Hit[];
}

/** The hits of the exchanges that the filter lets through, by exchange: data first, code last, where a value means least. */
function groupHits(hits: readonly Hit[], rows: readonly ExchangeRow[], visible: ReadonlySet<number>): Group[] {
  const byIndex = groupBy(hits, ({ index }): number | undefined => (visible.has(index) ? index : undefined));
  const groups = rows.flatMap((row) => {
    const own = byIndex.get(row.index);
    return own === undefined ? [] : { row, hits: own };
  });
  return groups.sort((a, b) => rankOf(a.row) - rankOf(b.row));
}

const CARRIES_DATA: ReadonlySet<Kind> = new Set(['data', 'stream', 'socket']);
const IS_CODE: ReadonlySet<Kind> = new Set(['script', 'style']);

function rankOf({ kind }: ExchangeRow): number {
  if (CARRIES_DATA.has(kind)) return 0;
  return IS_CODE.has(kind) ? 2 : 1;
}

/** The hits as a table to be exported; `offset` is where each begins in the text of its place. */
const hitTable = (groups: readonly Group[]): ExportTable => ({
  what: formatPlural(
    groups.reduce((sum, { hits }) => sum + hits.length, 0),
    'hit',
  ),
  header: ['index', 'url', 'place', 'path', 'offset', 'before', 'match', 'after'],
  rows: () =>
    groups.flatMap(({ row, hits }) =>
      hits.map(({ index, place, path, offset, before, match, after }) => [
        index,
        row.url,
        place,
        path,
        offset,
        before,
        match,
        after,
      ]),
    ),
});

interface OutcomeProps {
  readonly finding: Finding;
  readonly groups: readonly Group[];
  readonly of: number;
  readonly isFiltered: boolean;
  readonly children: ReactNode;
}

/** How far the search is, what it found, and what stopped it. */
function Outcome({ finding, groups, of, isFiltered, children }: OutcomeProps) {
  if (finding.state === 'idle') return null;
  const count = groups.reduce((sum, { hits }) => sum + hits.length, 0);
  const left = finding.hits.length - count;
  const found =
    count === 0
      ? finding.state === 'running'
        ? 'No matches yet'
        : 'No matches'
      : `${formatPlural(count, 'hit')} in ${formatPlural(groups.length, 'exchange')}`;
  const among = isFiltered ? ' among those that match the filter' : '';
  return (
    <div className="shrink-0 px-4 py-2.5">
      <p role="status" data-find-outcome={finding.state}>
        <b>{found}</b>
        {among}
        {left > 0 ? `; ${formatCount(left)} more are in exchanges that are filtered out or hidden` : ''}.{' '}
        <span className="text-soft">
          {finding.state === 'running'
            ? `Searching: ${formatCount(finding.searched)} of ${formatCount(of)} exchanges.`
            : ''}
          {finding.state === 'ended' && count === 0 && finding.problem === undefined
            ? 'Searched as typed, URL-encoded, JSON-escaped, in base64, and as a number or date in its common forms. Bodies that were not recorded cannot be searched.'
            : ''}
        </span>{' '}
        {children}
      </p>
      {finding.problem === undefined ? null : (
        <p role="alert" className="mt-1 text-failed">
          {finding.problem}
        </p>
      )}
    </div>
  );
}

function Hint() {
  return (
    <p className="mx-auto mt-16 max-w-xl text-soft">
      Type what you saw: a price, an id, a token, a sentence. Every URL, header, payload, body and message is searched
      for it, as typed, URL-encoded, JSON-escaped and in base64. Numbers and dates are also found where they are written
      otherwise: 2,992.65 as 2992.65, 14 July 2027 as 2027-07-14.
    </p>
  );
}

const FORM_WORD: Record<Form, string | undefined> = {
  plain: undefined,
  url: 'URL-encoded',
  json: 'JSON-escaped',
  base64: 'in base64',
  number: 'perhaps equal',
  date: 'perhaps that date',
};

function HitGroup({ row, hits, current }: Group & { readonly current: string | undefined }) {
  const word = statusWord(row);
  return (
    <section aria-label={`#${row.index} ${nameExchange(row)}`} className="border-line border-b py-2.5">
      <h2 className="flex items-center gap-2">
        <span className="w-7 shrink-0 text-right text-[11px] text-soft">{row.index}</span>
        <span
          className="flex shrink-0 size-[17px] items-center justify-center border border-soft font-bold text-[10px] text-soft"
          title={row.kind}
        >
          {KIND_LETTER[row.kind]}
        </span>
        <span className="min-w-24 max-w-[70%] shrink-0 truncate font-semibold" title={row.url}>
          {nameExchange(row)}
        </span>
        <span className="min-w-0 truncate text-[12px] text-soft" title={row.host}>
          {row.method} {nameHost(row.host)}
        </span>
        {word === undefined ? null : <StatusMark row={row} word={word} />}
        <MarkSign index={row.index} />
      </h2>
      <ul className="mt-1 pl-14">
        {foldHits(hits).map((one) =>
          'hits' in one ? (
            <Fold key={`${one.hits[0].place}:${one.path}`} folded={one} current={current} />
          ) : (
            <HitLine key={writeHit(one)} hit={one} current={current} />
          ),
        )}
      </ul>
    </section>
  );
}

/** What was found in the items of one list: one line, which unfolds to all of them. */
function Fold({ folded, current }: { readonly folded: FoldedHits; readonly current: string | undefined }) {
  const [isOpen, setIsOpen] = useState(false);
  const { path, hits } = folded;
  const [first] = hits;
  const holdsCurrent = hits.some((hit) => writeHit(hit) === current);
  const shows = isOpen || holdsCurrent;
  return (
    <li>
      <button type="button" data-fold={path} aria-expanded={shows} onClick={() => setIsOpen(!shows)} className={LINE}>
        <Where hit={first} path={path} />
        <span className="truncate text-[12px]">
          <b>{formatPlural(hits.length, 'hit')}</b>
          {shows ? '' : ', the first: '}
          {shows ? null : <Around hit={first} />}
        </span>
      </button>
      {shows ? (
        <ul className="border-line border-l pl-4">
          {hits.map((hit) => (
            <HitLine key={writeHit(hit)} hit={hit} current={current} />
          ))}
        </ul>
      ) : null}
    </li>
  );
}

const LINE =
  'grid min-h-6 w-full grid-cols-[minmax(0,250px)_minmax(0,1fr)] items-center gap-3 px-1 py-0.5 text-left hover:bg-sheet';

function HitLine({ hit, current }: { readonly hit: Hit; readonly current: string | undefined }) {
  const target = writeHit(hit);
  return (
    <li>
      <button
        type="button"
        data-hit={target}
        onClick={() => goTo({ exchange: hit.index, isOpen: true, hit: target })}
        className={`${LINE} ${current === target ? 'current' : ''}`}
      >
        <Where hit={hit} path={hit.path} />
        <span className="truncate font-mono text-[12px]" title={`${hit.before}${hit.match}${hit.after}`}>
          <Around hit={hit} />
        </span>
      </button>
    </li>
  );
}

/** Where it stands, and how: a hit's own path, or that of all in one list. */
function Where({ hit: { place, form }, path }: { readonly hit: Hit; readonly path: string | undefined }) {
  const how = FORM_WORD[form] === undefined ? '' : `, ${FORM_WORD[form]}`;
  return (
    <span className="truncate text-[12px] text-soft" title={`${place} ${path ?? ''}${how}`}>
      {place} {path === undefined ? null : <b className="font-semibold text-ink">{path}</b>}
      {how}
    </span>
  );
}

function Around({ hit: { before, match, after } }: { readonly hit: Hit }) {
  return (
    <span className="font-mono">
      <span className="text-soft">{before}</span>
      <mark className="bg-transparent font-bold text-ink underline decoration-2">{match}</mark>
      <span className="text-soft">{after}</span>
    </span>
  );
}
