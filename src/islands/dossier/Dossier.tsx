import { type ReactNode, useEffect, useRef } from 'react';
import { nameExchange, splitAddress, tellStory } from '#core/analysis';
import { findResponse } from '#core/model';
import type { ExchangeDossier } from '#core/wire';
import { formatInstant, formatZone } from '#core/wording';
import { Button } from '../ui/Button';
import { StatusMark } from '../ui/status';
import { BodySection } from './BodySection';
import { ClockSection } from './ClockSection';
import { FieldList } from './FieldList';
import { PayloadSection } from './PayloadSection';

/** The sections there are, in order; their places are their keys. */
export const SECTIONS = ['Story', 'Clock', 'Request', 'Payload', 'Response', 'Body'] as const;

interface DossierProps {
  readonly captureId: string;
  readonly dossier: ExchangeDossier;
  readonly zoneMinutes: number;
  readonly onCopyCurl: () => void;
  readonly onClose: () => void;
}

/** Everything about one exchange on one scroll, with a numbered index at its left edge. */
export function Dossier({ captureId, dossier, zoneMinutes, onCopyCurl, onClose }: DossierProps) {
  const { row, exchange, body } = dossier;
  const response = findResponse(exchange);
  const address = splitAddress(row.url);
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
        <p className="mt-2">{tellStory(row)}</p>
        <p className="mt-1 text-[13px] text-soft">
          {row.startedAt === undefined
            ? 'When it started is unknown.'
            : `Started ${formatInstant(row.startedAt, zoneMinutes)} ${formatZone(zoneMinutes)}.`}{' '}
          Kind: {row.kind}, {row.kindEvidence}. Source: {row.source}, {row.sourceEvidence}.
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
        <ClockSection row={row} />
      </Section>
      <Section number={3}>
        <FieldList
          fields={[
            { name: 'method', value: row.method },
            {
              name: 'host',
              value: `${address?.host ?? row.host}${row.party === undefined ? '' : ` (${row.party} party)`}`,
            },
            { name: 'path', value: address?.path ?? row.url },
            { name: 'protocol', value: row.protocol ?? 'unknown' },
            { name: 'server', value: exchange.serverAddress ?? 'unknown' },
          ]}
        />
        {exchange.request.query.length === 0 ? null : (
          <>
            <h4 className="mt-3 font-semibold text-soft">Query</h4>
            <FieldList fields={exchange.request.query} />
          </>
        )}
        <h4 className="mt-3 font-semibold text-soft">Headers</h4>
        <FieldList fields={exchange.request.headers} none="No request header was recorded." />
      </Section>
      <Section number={4}>
        <PayloadSection request={exchange.request} />
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
            <FieldList fields={response.headers} none="No response header was recorded." />
          </>
        )}
      </Section>
      <Section number={6}>
        <BodySection captureId={captureId} index={row.index} body={body} hasResponse={response !== undefined} />
      </Section>
    </>
  );
}

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
