import { useStore } from '@nanostores/react';
import { type ReactNode, useEffect, useMemo, useRef } from 'react';
import { type ExchangeRow, findSurroundings, nameExchange, splitAddress, tellStory } from '#core/analysis';
import type { HitPlace } from '#core/find';
import { findResponse, type NameValue } from '#core/model';
import { findStatusEntry } from '#core/reference';
import type { NamedField, Sift } from '#core/sift';
import type { ExchangeDossier } from '#core/wire';
import { formatInstant, formatZone } from '#core/wording';
import { SiftValue, termOf } from '../sift/SiftValue';
import { $place } from '../state/address';
import { type HitTarget, readHit } from '../state/hit';
import { Button } from '../ui/Button';
import { StatusMark } from '../ui/status';
import { BodySection } from './BodySection';
import { ClockSection } from './ClockSection';
import { CookiesSection } from './CookiesSection';
import { FieldList } from './FieldList';
import { HeaderList } from './HeaderList';
import { MessageList } from './MessageList';
import { PayloadSection } from './PayloadSection';
import { RelationsSection } from './RelationsSection';

/** The sections there are, in order; their places are their keys. */
export const SECTIONS = ['Story', 'Clock', 'Request', 'Payload', 'Response', 'Body', 'Cookies', 'Relations'] as const;

interface DossierProps {
  readonly captureId: string;
  readonly dossier: ExchangeDossier;
  /** The exchanges of its capture: what it is compared and related with. */
  readonly rows: readonly ExchangeRow[];
  readonly zoneMinutes: number;
  readonly onCopyCurl: () => void;
  readonly onClose: () => void;
}

/** Everything about one exchange on one scroll, with a numbered index at its left edge. */
export function Dossier({ captureId, dossier, rows, zoneMinutes, onCopyCurl, onClose }: DossierProps) {
  const { row, exchange, body } = dossier;
  const around = useMemo(() => findSurroundings(row, rows), [row, rows]);
  const response = findResponse(exchange);
  const address = splitAddress(row.url);
  const place = useStore($place);
  const hit = useMemo(() => readHit(place.hit), [place.hit]);
  useHit(hit);
  return (
    <>
      <Section number={1} isFirst>
        <div className="flex justify-between gap-3">
          <p className="font-mono text-[12px] text-soft">
            #{row.index} {row.method} {row.host}
          </p>
          <Button onClick={onClose} hint="Esc" label="Close the dossier">
            Close
          </Button>
        </div>
        <h2 className="mt-1 break-words font-bold text-xl leading-6">{nameExchange(row)}</h2>
        <p className="mt-2">{tellStory(row, around)}</p>
        <p className="mt-1 text-[13px] text-soft">
          {row.startedAt === undefined
            ? 'When it started is unknown.'
            : `Started ${formatInstant(row.startedAt, zoneMinutes)} ${formatZone(zoneMinutes)}.`}{' '}
          Kind: <SiftValue term={termOf({ name: 'kind' }, row.kind)}>{row.kind}</SiftValue>, {row.kindEvidence}. Source:{' '}
          <SiftValue term={termOf({ name: 'source' }, row.source)}>{row.source}</SiftValue>, {row.sourceEvidence}.
        </p>
        {exchange.notes.map((note) => (
          <p key={note} className="mt-1 text-[13px] text-soft">
            Noted while reading: {note}.
          </p>
        ))}
        <div className="mt-3 flex gap-2">
          <Button onClick={onCopyCurl} hint="c" isMain>
            Copy as curl
          </Button>
        </div>
      </Section>
      <Section number={2}>
        <ClockSection row={row} around={around} responseHeaders={response?.headers ?? []} />
      </Section>
      <Section number={3}>
        <FieldList
          fields={[
            { name: 'method', value: row.method },
            { name: 'host', value: address?.host ?? row.host },
            { name: 'party', value: row.party ?? 'unknown' },
            { name: 'path', value: address?.path ?? row.url },
            { name: 'endpoint', value: row.endpoint },
            { name: 'protocol', value: row.protocol ?? 'unknown' },
            { name: 'connection', value: row.connection ?? 'unknown' },
            { name: 'server', value: exchange.serverAddress ?? 'unknown' },
          ]}
          marked={hit?.place === 'address' ? 'path' : undefined}
          termFor={({ name, value }) => rowTerm(row, name, value)}
        />
        {exchange.request.query.length === 0 ? null : (
          <>
            <h4 className="mt-3 font-semibold text-soft">Query</h4>
            <FieldList fields={exchange.request.query} termFor={namedTerm('query')} />
          </>
        )}
        <h4 className="mt-3 font-semibold text-soft">Headers</h4>
        <HeaderList
          headers={exchange.request.headers}
          none="No request header was recorded."
          marked={hit?.place === 'request header' ? hit.path : undefined}
          termFor={namedTerm('req')}
          at={row.startedAt}
        />
      </Section>
      <Section number={4}>
        <PayloadSection request={exchange.request} hit={hit} />
      </Section>
      <Section
        number={5}
        mark={response === undefined ? null : <StatusMark row={row} word={String(response.status)} />}
      >
        {response === undefined ? (
          <p>{row.failure === undefined ? 'No response arrived.' : `No response arrived: ${row.failure}.`}</p>
        ) : (
          <>
            {response.statusText === '' ? null : <p className="mb-1">{response.statusText}</p>}
            <StatusNote status={response.status} />
            <HeaderList
              headers={response.headers}
              none="No response header was recorded."
              marked={hit?.place === 'response header' ? hit.path : undefined}
              termFor={namedTerm('res')}
              at={row.startedAt}
            />
          </>
        )}
      </Section>
      <Section number={6}>
        <BodySection
          captureId={captureId}
          index={row.index}
          body={body}
          hasResponse={response !== undefined}
          hit={hit}
        />
        <MessageList messages={exchange.messages} hit={hit} />
      </Section>
      <Section number={7}>
        <CookiesSection
          request={exchange.request.headers}
          response={response?.headers ?? []}
          url={row.url}
          at={row.startedAt}
          zoneMinutes={zoneMinutes}
        />
      </Section>
      <Section number={8}>
        <RelationsSection row={row} around={around} />
      </Section>
    </>
  );
}

/** What a status means, in a sentence. */
function StatusNote({ status }: { readonly status: number }) {
  const entry = findStatusEntry(status);
  return entry === undefined ? null : (
    <p className="mb-1 text-[13px] text-soft">
      {entry.says} ({entry.section})
    </p>
  );
}

/** The section in which each place of a hit is shown. */
const SECTION_OF: Record<HitPlace, number> = {
  address: 3,
  status: 1,
  'request header': 3,
  'request payload': 4,
  'response header': 5,
  'response body': 6,
  message: 6,
};

/** Brings what was found into view: its mark where there is one, else its section. */
function useHit(hit: HitTarget | undefined): void {
  useEffect(() => {
    if (hit === undefined) return;
    const section = document.getElementById(`section-${SECTION_OF[hit.place]}`);
    const mark = section?.querySelector('[data-hit-mark]');
    if (mark === null || mark === undefined) section?.scrollIntoView({ block: 'start' });
    else mark.scrollIntoView({ block: 'center' });
  }, [hit]);
}

/** What is said of an exchange as a whole, as a term of the sift; some is no field of it. */
function rowTerm(row: ExchangeRow, name: string, value: string): Sift | undefined {
  switch (name) {
    case 'method':
    case 'host':
    case 'party':
    case 'path':
    case 'endpoint':
    case 'protocol':
    case 'connection':
      return termOf({ name }, name === 'host' ? row.host : value === 'unknown' ? undefined : value);
    default:
      return undefined;
  }
}

const namedTerm =
  (name: NamedField) =>
  (field: NameValue): Sift | undefined =>
    field.name === '' ? undefined : termOf({ name, key: field.name }, field.value);

interface SectionProps {
  readonly number: number;
  readonly isFirst?: boolean;
  readonly mark?: ReactNode;
  readonly children: ReactNode;
}

function Section({ number, isFirst = false, mark, children }: SectionProps) {
  const title = SECTIONS[number - 1];
  return (
    <section id={`section-${number}`} aria-label={title} className={isFirst ? 'pb-4' : 'border-line border-t py-4'}>
      {isFirst ? null : (
        <h3 className="mb-2 flex items-center gap-2 font-bold">
          {title}
          {mark}
        </h3>
      )}
      {children}
    </section>
  );
}

interface DossierSheetProps {
  readonly label: string;
  readonly onSection: (number: number) => void;
  readonly children: ReactNode;
}

/** The sheet that slides over the chart's right part. It takes the focus, so that its text can be scrolled by key. */
export function DossierSheet({ label, onSection, children }: DossierSheetProps) {
  const scroller = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another exchange starts at its top again.
  useEffect(() => {
    scroller.current?.focus({ preventScroll: true });
    scroller.current?.scrollTo({ top: 0 });
  }, [label]);
  return (
    <aside
      aria-label={label}
      className="absolute inset-y-0 right-0 z-20 flex w-[486px] max-w-full animate-slide-in border-route border-l-3 bg-sheet shadow-dossier"
    >
      <ol className="w-8 shrink-0 border-line border-r pt-4">
        {SECTIONS.map((title, at) => (
          <li key={title}>
            <button
              type="button"
              title={title}
              aria-label={`Section ${at + 1}, ${title}`}
              onClick={() => onSection(at + 1)}
              className="w-full py-1 font-mono font-semibold text-[12px] text-soft hover:text-route"
            >
              {at + 1}
            </button>
          </li>
        ))}
      </ol>
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <div ref={scroller} tabIndex={0} className="min-w-0 flex-1 overflow-y-auto p-4 outline-none">
        {children}
      </div>
    </aside>
  );
}
