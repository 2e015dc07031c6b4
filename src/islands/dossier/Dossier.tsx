import { useStore } from '@nanostores/react';
import { type ReactNode, useCallback, useEffect, useMemo } from 'react';
import {
  type ExchangeRow,
  findSurroundings,
  nameExchange,
  nameHost,
  type Surroundings,
  tellStory,
} from '#core/analysis';
import type { TargetId } from '#core/convert';
import type { HitPlace } from '#core/find';
import { type Exchange, findResponse } from '#core/model';
import { findStatusEntry } from '#core/reference';
import type { ExchangeDossier } from '#core/wire';
import { formatInstantMs, formatZone, tellNoResponse } from '#core/wording';
import { $marked, compareWords } from '../capture/compare-mark';
import { FilterValue, termOf } from '../filter/FilterValue';
import { NoteLine } from '../marks/NoteLine';
import { $place } from '../state/address';
import { type HitTarget, readHit } from '../state/hit';
import { Button } from '../ui/Button';
import { StatusMark } from '../ui/status';
import { Term } from '../ui/Term';
import { AddressFields, namedTerm } from './AddressFields';
import { BodySection } from './BodySection';
import { CacheSection } from './CacheSection';
import { CookiesSection } from './CookiesSection';
import { CopyAs } from './CopyAs';
import { copyLink } from './copy-link';
import { copyLogLine } from './copy-log-line';
import { HeaderList } from './HeaderList';
import { PayloadSection } from './PayloadSection';
import { RelationsSection } from './RelationsSection';
import { SECTIONS } from './sections';
import { TimingSection } from './TimingSection';
import { Moment } from './Unfolding';

/** What the buttons at the top do. */
interface Does {
  readonly onCopyCurl: () => void;
  readonly onCopyAs: (id: TargetId) => void;
  readonly onDraft: () => void;
  readonly onCompare: () => void;
  readonly onClose: () => void;
}

interface DossierProps extends Does {
  readonly captureId: string;
  readonly dossier: ExchangeDossier;
  /** The exchanges of its capture: what it is compared and related with. */
  readonly rows: readonly ExchangeRow[];
  readonly zoneMinutes: number;
  /** Takes the element of each section, by which it can be gone to. */
  readonly sections: SectionElements;
}

/**
 * Everything about one exchange on one scroll, with a numbered index at its left edge. Long because it lists all sections.
 */
export default function Dossier({ captureId, dossier, rows, zoneMinutes, sections, ...does }: DossierProps) {
  const { row, exchange, body } = dossier;
  const around = useMemo(() => findSurroundings(row, rows), [row, rows]);
  const response = findResponse(exchange);
  const place = useStore($place);
  const hit = useMemo(() => readHit(place.hit), [place.hit]);
  useHit(hit, sections);
  const moment = useMemo(() => ({ zoneMinutes, at: row.startedAt }), [zoneMinutes, row.startedAt]);
  return (
    <Moment value={moment}>
      <Section elements={sections} number={1} isFirst>
        <StorySection
          captureId={captureId}
          row={row}
          exchange={exchange}
          rows={rows}
          zoneMinutes={zoneMinutes}
          {...does}
        />
      </Section>
      <Section elements={sections} number={2}>
        <TimingSection row={row} around={around} responseHeaders={response?.headers ?? []} />
      </Section>
      <Section elements={sections} number={3}>
        <RequestSection row={row} exchange={exchange} around={around} hit={hit} />
      </Section>
      <Section elements={sections} number={4}>
        <PayloadSection request={exchange.request} hit={hit} />
      </Section>
      <Section
        elements={sections}
        number={5}
        mark={response === undefined ? null : <StatusMark row={row} word={String(response.status)} />}
      >
        <ResponseSection row={row} exchange={exchange} hit={hit} />
      </Section>
      <Section elements={sections} number={6}>
        <BodySection
          captureId={captureId}
          index={row.index}
          body={body}
          messages={exchange.messages}
          startedAt={row.startedAt}
          hit={hit}
        />
      </Section>
      <Section elements={sections} number={7}>
        <CookiesSection
          captureId={captureId}
          index={row.index}
          request={exchange.request.headers}
          response={response?.headers ?? []}
          url={row.url}
          at={row.startedAt}
          zoneMinutes={zoneMinutes}
        />
      </Section>
      <Section elements={sections} number={8}>
        <CacheSection row={row} exchange={exchange} />
      </Section>
      <Section elements={sections} number={9}>
        <RelationsSection captureId={captureId} row={row} around={around} rows={rows} />
      </Section>
    </Moment>
  );
}

interface StorySectionProps extends Does {
  readonly captureId: string;
  readonly row: ExchangeRow;
  readonly exchange: Exchange;
  readonly rows: readonly ExchangeRow[];
  readonly zoneMinutes: number;
}

/** What the exchange is and came to, and what can be done with it. Long because it is the markup of one section. */
function StorySection({
  captureId,
  row,
  exchange,
  rows,
  zoneMinutes,
  onCopyCurl,
  onCopyAs,
  onDraft,
  onCompare,
  onClose,
}: StorySectionProps) {
  const around = useMemo(() => findSurroundings(row, rows), [row, rows]);
  const marked = useStore($marked);
  return (
    <>
      <div className="flex justify-between gap-3">
        <p className="font-mono text-[12px] text-soft">
          #{row.index} {row.method} {nameHost(row.host)}
        </p>
        <Button onClick={onClose} hint="Esc" label="Close the dossier">
          Close
        </Button>
      </div>
      <h2 className="mt-1 break-words font-bold text-xl leading-6">{nameExchange(row)}</h2>
      <p className="mt-2">{tellStory(row, around)}</p>
      <p className="mt-1 text-[13px] text-soft">
        {row.startedAt === undefined
          ? 'Start unknown.'
          : `Started ${formatInstantMs(row.startedAt, zoneMinutes)} ${formatZone(zoneMinutes)}.`}{' '}
        <Term name="kind">Kind</Term>: <FilterValue term={termOf({ name: 'kind' }, row.kind)}>{row.kind}</FilterValue>,{' '}
        {row.kindEvidence}. <Term name={row.source}>Source</Term>:{' '}
        <FilterValue term={termOf({ name: 'source' }, row.source)}>{row.source}</FilterValue>, {row.sourceEvidence}.
      </p>
      {exchange.notes.map((note) => (
        <p key={note} className="mt-1 text-[13px] text-soft">
          Note on the recorded data: {note}.
        </p>
      ))}
      <p className="mt-2">
        <NoteLine target={{ type: 'exchange', index: row.index }} name={`#${row.index}`} />
      </p>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button onClick={onCopyCurl} hint="c" isMain>
          Copy as curl
        </Button>
        <CopyAs onCopy={onCopyAs} />
        <Button onClick={onDraft} hint="d">
          Edit as a draft
        </Button>
        <Button onClick={onCompare} hint="m">
          {compareWords(marked, captureId, row.index)}
        </Button>
        <Button onClick={copyLink} hint="i">
          Copy link to this view
        </Button>
        <Button onClick={() => void copyLogLine(exchange, zoneMinutes)}>Copy for a log search</Button>
      </div>
    </>
  );
}

interface SideProps {
  readonly row: ExchangeRow;
  readonly exchange: Exchange;
  readonly hit: HitTarget | undefined;
}

function RequestSection({ row, exchange, hit, around }: SideProps & { readonly around: Surroundings }) {
  return (
    <>
      <AddressFields
        row={row}
        exchange={exchange}
        sharedWith={around.sameConnection}
        isFound={hit?.place === 'address'}
      />
      <h4 className="mt-3 font-semibold text-soft">Headers</h4>
      <HeaderList
        headers={exchange.request.headers}
        none="No request header was recorded."
        marked={hit?.place === 'request header' ? hit.path : undefined}
        termFor={({ name, value }) => namedTerm('req', name, value)}
        side="request"
        exchange={exchange}
        at={row.startedAt}
      />
    </>
  );
}

function ResponseSection({ row, exchange, hit }: SideProps) {
  const response = findResponse(exchange);
  return (
    <>
      {response === undefined ? (
        <p>{tellNoResponse(row.failure)}</p>
      ) : (
        <>
          {response.statusText === '' ? null : <p className="mb-1">{response.statusText}</p>}
          <StatusNote status={response.status} />
          <HeaderList
            headers={response.headers}
            none="No response header was recorded."
            marked={hit?.place === 'response header' ? hit.path : undefined}
            termFor={({ name, value }) => namedTerm('res', name, value)}
            side="response"
            exchange={exchange}
            at={row.startedAt}
          />
        </>
      )}
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
function useHit(hit: HitTarget | undefined, sections: SectionElements): void {
  useEffect(() => {
    if (hit === undefined) return;
    const section = sections.current.get(SECTION_OF[hit.place]);
    const mark = section?.querySelector('[data-hit-mark]');
    if (mark === null || mark === undefined) section?.scrollIntoView({ block: 'start' });
    else mark.scrollIntoView({ block: 'center' });
  }, [hit, sections]);
}

/** The elements of the sections that are drawn, by their numbers. */
export type SectionElements = React.RefObject<Map<number, HTMLElement>>;

interface SectionProps {
  readonly elements: SectionElements;
  readonly number: number;
  readonly isFirst?: boolean;
  readonly mark?: ReactNode;
  readonly children: ReactNode;
}

function Section({ elements, number, isFirst = false, mark, children }: SectionProps) {
  const title = SECTIONS[number - 1];
  const element = useCallback(
    (one: HTMLElement | null): void => {
      if (one === null) elements.current.delete(number);
      else elements.current.set(number, one);
    },
    [elements, number],
  );
  return (
    <section ref={element} aria-label={title} className={isFirst ? 'pb-4' : 'border-line border-t py-4'}>
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
