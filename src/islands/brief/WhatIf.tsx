import { useMemo, useState } from 'react';
import { type ExchangeRow, nameExchange, type PageOverview } from '#core/analysis';
import { type BriefPage, type Change, documentAnswersMs, documentOf, Load } from '#core/brief';
import type { ExchangeIndex } from '#core/model';
import { formatMs } from '#core/wording';
import { Choice } from '../ui/Choice';

interface WhatIfProps {
  readonly rows: readonly ExchangeRow[];
  readonly page: PageOverview | undefined;
  readonly brief: BriefPage;
}

const KINDS = [
  'leave-out',
  'answer-in',
  'from-cache',
  'download-share',
  'start-at',
] as const satisfies readonly Change['type'][];
type Kind = (typeof KINDS)[number];
const KIND_WORD: Record<Kind, string> = {
  'leave-out': 'were left out',
  'answer-in': 'got a response in',
  'from-cache': 'came from cache',
  'download-share': 'downloaded in half the time',
  'start-at': 'were referenced in the document',
};
const HALF = 0.5;
const ALL = 'all';

/** The load played again with a change: its new time, and what it would wait for then. */
export default function WhatIf({ rows, page, brief }: WhatIfProps) {
  const [about, setAbout] = useState<string>('');
  const [kind, setKind] = useState<Kind>('leave-out');
  const [waitMs, setWaitMs] = useState(100);
  const options = useMemo(() => subjectsOf(rows, brief), [rows, brief]);
  const document = useMemo(() => documentOf(rows), [rows]);
  // What can be asked of the document is not what is asked first.
  const first = options.find(([id]) => id !== `#${document?.index}`) ?? options[0];
  const subject = options.find(([id]) => id === about)?.[0] ?? first?.[0] ?? ALL;
  const indexes = useMemo(() => indexesOf(rows, subject), [rows, subject]);
  const documentMs = useMemo(() => documentAnswersMs(rows) ?? Number.POSITIVE_INFINITY, [rows]);
  const change = useMemo(() => changeOf(kind, indexes, waitMs, documentMs), [kind, indexes, waitMs, documentMs]);
  const load = useMemo(() => new Load(rows, page), [rows, page]);
  const played = useMemo(() => load.play([change]), [load, change]);
  const plot = useMemo(() => played?.plot(), [played]);
  if (played === undefined) return null;
  const wholeMs = brief.targetMs - brief.originMs;
  const newMs = played.targetMs - brief.originMs;
  const isLoad = kind !== 'leave-out' || document === undefined || !indexes.has(document.index);
  return (
    <section aria-label="What if" className="mt-6">
      <h2 className="mb-1 font-bold">What if</h2>
      <div className="flex flex-wrap items-center gap-x-2 text-[13px]">
        <Choice label="What" value={subject} options={options} onChoose={setAbout} />
        <Choice
          label="Change"
          value={kind}
          options={KINDS.map((id) => [id, KIND_WORD[id]] as const)}
          onChoose={setKind}
        />
        {kind === 'answer-in' ? (
          <label className="flex items-center gap-1 text-soft">
            <input
              type="number"
              min={0}
              aria-label="Server wait in ms"
              value={waitMs}
              onChange={({ target }) => setWaitMs(Math.max(0, Number(target.value) || 0))}
              className="w-20 border border-line bg-paper px-1 text-ink"
            />
            ms
          </label>
        ) : null}
      </div>
      <p className="mt-1" role="status" data-what-if>
        {isLoad ? <Outcome wholeMs={wholeMs} newMs={newMs} /> : 'Without its document there would be no load.'}{' '}
        {isLoad ? routeWords(plot, played.rows()) : null}
      </p>
      <p className="text-[12px] text-soft">
        Simulated from what waited for what: gaps stay as recorded, six connections to a host are kept, and a full
        connection gives no more than it gave. Not taken into account: connections that would have to be set up
        elsewhere, and work that the browser would no longer have.
      </p>
    </section>
  );
}

function Outcome({ wholeMs, newMs }: { readonly wholeMs: number; readonly newMs: number }) {
  if (newMs === wholeMs)
    return <>It would take {formatMs(newMs)} all the same: what it waits for in the end comes no sooner.</>;
  return (
    <>
      It would take <b className="font-semibold">{formatMs(newMs)}</b> instead of {formatMs(wholeMs)},{' '}
      {formatMs(Math.abs(wholeMs - newMs))} {newMs < wholeMs ? 'less' : 'more'}.
    </>
  );
}

/** What can be changed: what stands on the route first, by exchange and by host, then every host. */
function subjectsOf(rows: readonly ExchangeRow[], { legs }: BriefPage): (readonly [string, string])[] {
  const byIndex = new Map<ExchangeIndex, ExchangeRow>(rows.map((row) => [row.index, row]));
  const onRoute = legs
    .flatMap((leg) => (leg.type === 'exchange' ? { row: byIndex.get(leg.index), ms: leg.endMs - leg.startMs } : []))
    .sort((a, b) => b.ms - a.ms)
    .flatMap(({ row }) =>
      row === undefined ? [] : [[`#${row.index}`, `#${row.index} ${nameExchange(row)}`] as const],
    );
  const hosts = [...new Set(rows.map(({ host }) => host))].map((host) => [host, `all of ${host}`] as const);
  return [...onRoute, ...hosts, [ALL, 'everything']];
}

const indexesOf = (rows: readonly ExchangeRow[], subject: string): ReadonlySet<ExchangeIndex> =>
  new Set(
    rows.flatMap(({ index, host }) => (subject === ALL || `#${index}` === subject || host === subject ? index : [])),
  );

function changeOf(type: Kind, indexes: ReadonlySet<ExchangeIndex>, waitMs: number, documentMs: number): Change {
  switch (type) {
    case 'answer-in':
      return { type, indexes, waitMs };
    case 'download-share':
      return { type, indexes, share: HALF };
    case 'start-at':
      return { type, indexes, startMs: documentMs };
    case 'leave-out':
    case 'from-cache':
      return { type, indexes };
    default:
      return type satisfies never;
  }
}

const SHOWN_LEGS = 5;

/** The last legs of the new route, by name. */
function routeWords(brief: BriefPage | undefined, rows: readonly ExchangeRow[]): string {
  const byIndex = new Map<ExchangeIndex, ExchangeRow>(rows.map((row) => [row.index, row]));
  const names = (brief?.legs ?? []).flatMap((leg) => {
    const row = leg.type === 'exchange' ? byIndex.get(leg.index) : undefined;
    return row === undefined ? [] : `${nameExchange(row)} (#${row.index})`;
  });
  if (names.length === 0) return '';
  const shown = names.slice(-SHOWN_LEGS).join(', then ');
  return `Its route would ${names.length > SHOWN_LEGS ? `end with ${shown}` : `be ${shown}`}.`;
}
